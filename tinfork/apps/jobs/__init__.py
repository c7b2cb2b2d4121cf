"""Long work: progress, cancel, what went wrong."""
