"""Alignment: which frame is which, where the picture sits, and how views share it."""
