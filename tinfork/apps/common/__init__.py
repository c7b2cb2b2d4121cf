"""What every page shares: layout, files with permission, messages, headers."""
