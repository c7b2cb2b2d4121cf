"""A shot's sound: clips of takes on tracks, the reading of each voice, and every edit to them."""
