"""Accounts, studios and who belongs to which."""
