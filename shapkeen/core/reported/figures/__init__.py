"""Drawings as SVG from core data: small functions, tested on their geometry.

Colours come from the page's style sheet by class names; no styles are written inline.
"""
