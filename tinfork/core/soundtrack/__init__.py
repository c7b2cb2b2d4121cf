"""A shot's sound: clips of takes on tracks, what is read in each voice, and every edit to them."""
