"""Measures: `./run bench [reading|solver|sound]`."""
