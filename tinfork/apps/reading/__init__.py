"""Reading a shot: timed sounds from words and sound."""
