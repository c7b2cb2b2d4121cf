"""Measures of a sound: peaks for drawing, where a voice is, edges mended by energy."""
