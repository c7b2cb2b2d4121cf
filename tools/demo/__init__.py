"""The demo film *Last Tram, First Loaf*, made by whoever changes it: its sounds, its story reel, a face that acts.

The results are in `demo/` and `tinfork/static/`; the tools are not needed to see the film.
"""
