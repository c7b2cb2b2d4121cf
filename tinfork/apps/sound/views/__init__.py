"""Views of the take library."""
