"""Decoding: frames as planes of code values, and the grid on which two pictures are compared."""
