"""The web application: thin over the core."""
