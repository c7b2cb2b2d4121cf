"""The demo film *Last Tram, First Loaf*, made by whoever changes it: its sounds, its story reel, a face that acts.

What comes of it is in `demo/` and `tinfork/static/`; nobody needs these tools to see the film.
"""
