"""The picture of a version: the master's frames framed, scaled, converted, dithered."""
