"""Pronunciations of words in a production: corrected once, applied in all shots."""
