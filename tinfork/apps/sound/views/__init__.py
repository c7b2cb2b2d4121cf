"""The take library and everything in it."""
