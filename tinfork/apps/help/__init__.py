"""Help pages, the tour, and the sample scene."""
