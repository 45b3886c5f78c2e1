"""Sound beside the picture."""
