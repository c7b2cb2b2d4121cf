"""Starting everything on one machine: what `./run demo`, `serve` and `test` do.

Database, web, worker and streams are started and stopped together, on a data folder of one's own; pictures of the
demo are taken from it, too (`./run shots`).
"""
