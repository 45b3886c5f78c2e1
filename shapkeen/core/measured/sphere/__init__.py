"""Spheres: what shows that a picture is one, whether its seam is closed, how it was turned."""
