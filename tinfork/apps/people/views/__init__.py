"""Pages about people: their studio, their account, whether the site is up."""
