"""Long work: surveys in child processes, with progress, stop and recovery."""
