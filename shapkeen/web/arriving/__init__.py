"""Files that came in and are not placed yet: what they are taken for, and bringing them in."""
