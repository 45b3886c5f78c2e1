"""Settings, addresses and the start of the web application."""
