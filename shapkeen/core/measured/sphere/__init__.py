"""Spheres: seam, poles, horizon and orientation, moment by moment."""
