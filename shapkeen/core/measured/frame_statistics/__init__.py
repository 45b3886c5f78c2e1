"""Statistics of every frame of one file: light, gamut, range, levels and colours."""
