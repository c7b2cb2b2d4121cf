"""Changing the cast: characters, charts, drawings, pages that are cut up. One function a verb."""
