"""Accounts, studios and memberships."""
