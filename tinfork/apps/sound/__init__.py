"""Takes: the recordings of a production."""
