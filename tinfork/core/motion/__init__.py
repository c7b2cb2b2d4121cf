"""How heads, faces, mouths and other parts move: poses, keys, what is between them, and proposals by rule."""
