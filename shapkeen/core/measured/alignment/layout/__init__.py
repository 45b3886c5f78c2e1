"""How views share a picture: packing of two views, projection and orientation of spheres."""
