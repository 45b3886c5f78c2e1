"""Spans: cutting a file, running the parts in several processes, keeping what is done."""
