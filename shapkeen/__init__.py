"""Shapkeen: did the picture that was signed off survive the export?"""

__version__ = "0.1.0"
