"""The basis of all pages: layout, files with permissions, messages, headers."""
