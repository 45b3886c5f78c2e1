"""Finding titles by the words that stand anywhere in them, kept in SQLite's full-text index."""
