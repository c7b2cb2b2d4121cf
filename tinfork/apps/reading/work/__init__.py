"""Jobs on sound: opening, speaking, reading, replacing, telling voices apart, opening a story reel."""
