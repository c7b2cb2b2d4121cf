"""How mouths look: articulation, mouth charts, and the mouths drawn by rule."""
