"""Scripts of whole productions: pasted or uploaded, with names matched to characters and lines assigned to shots."""
