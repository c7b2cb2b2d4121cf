"""What stops a start: one clear line."""


class StartError(Exception):
    """`str(error)` says what is wrong and what to do."""
