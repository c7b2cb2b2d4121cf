"""Pictures as arrays: regions, grounds, measures, and cutting up a page of drawings.

A picture is an array of shape (height, width, 4), dtype uint8: red, green, blue, alpha (not premultiplied).
"""
