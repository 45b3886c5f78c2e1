"""Published limits and arithmetic of rasters; no file access."""
