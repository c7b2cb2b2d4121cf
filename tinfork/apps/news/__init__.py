"""News for people, on the page and by mail; and the activity of a production."""
