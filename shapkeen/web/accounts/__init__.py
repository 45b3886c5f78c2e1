"""Accounts: made and closed, given roles, their passwords and sessions."""
