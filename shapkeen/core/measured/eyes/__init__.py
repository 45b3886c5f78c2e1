"""Two eyes: how they share a picture, which is which, and how far apart they see things."""
