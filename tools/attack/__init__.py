"""Attacking the whole application, on this machine alone: `./run attack [NAME]`.

As a hostile user, a slow line, a full disk and a cut cable would; a table says what held.
"""
