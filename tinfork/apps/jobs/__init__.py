"""Jobs: progress, cancelling, errors."""
