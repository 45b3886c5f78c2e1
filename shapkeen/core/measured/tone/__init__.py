"""What became of light and colour: acts on codes, the expected picture, and what differs."""
