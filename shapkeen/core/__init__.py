"""The computing core: reads, measures and judges pictures; knows no web and no database."""
