"""Archives: what was used of chosen titles, collected into a bag, verified and restored."""
