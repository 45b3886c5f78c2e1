"""Every sample of every frame of one file: light, gamut, range, depth and colours.

`survey_file` is the door; it brings the compiler along, so it is imported where used.
"""
