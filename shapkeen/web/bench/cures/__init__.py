"""Cures on the pages: corrected copies, tags set by hand, look-up tables, the next export."""
