"""Starting everything on one machine: `./run demo`, `serve` and `test`.

Database, web, worker and live processes are started and stopped together, with their
own data folder; `./run shots` takes the pictures of the demo.
"""
