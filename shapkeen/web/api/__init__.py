"""The HTTP API: what render scripts and other programs ask, described by OpenAPI."""
