"""Two views: parallax, vertical offset, colour and sharpness differences, left/right sync."""
