"""Titles, their masters, promises and deliveries: the Shelf and the Title pages."""
