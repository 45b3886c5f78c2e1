"""Reports: made in the background from what is known, kept, and handed out."""
