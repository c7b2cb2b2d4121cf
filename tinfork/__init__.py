"""Tin Fork: dialogue in, mouths on frames out."""
