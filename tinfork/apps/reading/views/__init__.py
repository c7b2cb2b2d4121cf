"""A shot's pages before its Desk."""
