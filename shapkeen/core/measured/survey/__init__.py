"""The survey: everything that was measured of one pair of files."""
