"""Every sample of every frame of one file: light, gamut, range, depth and colours."""
