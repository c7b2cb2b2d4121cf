"""Reference films of people acting, played in sync with a shot's sound; the face in them can be followed."""
