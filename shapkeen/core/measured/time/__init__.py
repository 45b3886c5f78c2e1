"""Time: dropped, repeated, held and mixed frames, and trimmed ends."""
