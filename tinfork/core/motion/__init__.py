"""How heads, faces, mouths and other parts move: poses, keys, the curves between them, and proposed acting."""
