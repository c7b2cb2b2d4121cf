"""Outside programs and libraries behind small functions. May import core; never Django."""
