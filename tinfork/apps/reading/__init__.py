"""Reading a shot: words and sound give timed sounds."""
