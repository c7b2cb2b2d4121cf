"""Views of studios and accounts, and of the site's health."""
