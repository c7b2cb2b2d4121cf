"""Exporters that use a library or an outside program, and the table of all exporters."""
