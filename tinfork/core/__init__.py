"""The job itself: pure rules and computation.

Standard library and numpy only. Nothing here reads a file, the time, the
environment or a random source, and nothing here knows Django.
"""
