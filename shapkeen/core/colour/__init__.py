"""Published tables and formulas of light and colour, one standard a module; no file access."""
