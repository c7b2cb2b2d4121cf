"""How good a reading is, against one that is known to be right."""
