"""Views of a shot, except its Desk."""
