"""Starting everything: web server, workers, and the demo."""
