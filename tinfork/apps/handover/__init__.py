"""Exports: sheets, pictures, movies and data."""
