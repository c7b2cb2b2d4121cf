"""Ways out that a library or an outside program writes, and the table of all ways out."""
