"""What was done: who, when, what, before and after. Appended to, never edited."""
