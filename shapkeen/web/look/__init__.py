"""Look: judging by eye."""
