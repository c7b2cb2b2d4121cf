"""Measures of a sound: peaks for drawing, where there is a voice, edges corrected by energy."""
