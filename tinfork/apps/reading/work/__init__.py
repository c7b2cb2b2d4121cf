"""Jobs on sound: opening, synthesising, reading, replacing, separating voices, opening a story reel."""
