"""Builders of test material: boxes, bit strings, surveys, and small real files."""
