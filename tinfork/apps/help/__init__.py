"""The help pages, the tour, and the scene to try things with."""
