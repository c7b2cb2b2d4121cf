"""Starting everything on one machine: database, web, worker; for the demo and for tests."""
