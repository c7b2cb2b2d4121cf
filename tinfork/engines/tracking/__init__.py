"""Faces in films: found, and their landmarks followed from frame to frame, by models that run here."""
