"""Productions and their shots."""
