"""Decoding: frames as planes of code values, the common grid, and metrics between two planes."""
