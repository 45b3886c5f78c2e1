"""Spheres: what shows that a picture is one, whether its seam is closed, and where it was
turned."""
