"""What happened since somebody was last here: work that ended, and what others did."""
