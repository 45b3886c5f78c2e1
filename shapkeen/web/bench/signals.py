"""What others may want to hear of the Bench."""

from django.dispatch import Signal

measured = Signal()
"""Sent by a worker, with `attempt`, once a survey of it is saved and judged."""
