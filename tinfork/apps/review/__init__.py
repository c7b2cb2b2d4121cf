"""Showing shots to somebody who decides: a link, what they say to a frame, and their yes or no."""
