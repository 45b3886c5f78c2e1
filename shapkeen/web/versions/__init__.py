"""Versions: recipes of a title, and the deliveries that are made by them."""
