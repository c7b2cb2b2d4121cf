"""How words are pronounced in a production: corrected once, applied in every shot."""
