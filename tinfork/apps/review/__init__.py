"""Reviews: links that show shots, remarks on frames, and decisions."""
