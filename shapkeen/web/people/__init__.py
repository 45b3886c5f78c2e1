"""Accounts: the first one, and logging in."""
