"""Edit commands: what a page may ask for, by name."""
