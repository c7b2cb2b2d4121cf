"""Changing a shot's sound and reading."""
