"""Scripts of whole productions: pasted or uploaded, their names matched, their lines laid on shots."""
