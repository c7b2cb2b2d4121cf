"""Attacking the whole application as a hostile user, a full disk and a cut cable would; on this machine alone."""
