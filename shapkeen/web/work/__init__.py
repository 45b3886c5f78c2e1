"""Long work of every kind: jobs, the child processes that do them, and who may see them."""
