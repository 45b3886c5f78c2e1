"""The `shapkeen` command: thin over the core."""
