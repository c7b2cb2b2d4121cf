"""Changing a shot's sound and what is read in it."""
