"""Sizes, ratios and rates as people write them."""

from fractions import Fraction

from .framing import Size


def size_words(size: Size) -> str:
    """Return a raster as 1920×1080."""
    return f"{size[0]}×{size[1]}"


def ratio_words(value: Fraction | float) -> str:
    """Return a ratio or rate with three decimals at most."""
    return f"{float(value):.3f}".rstrip("0").rstrip(".")
