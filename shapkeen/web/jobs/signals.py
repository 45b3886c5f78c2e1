"""What others may want to hear of jobs."""

from django.dispatch import Signal

surveyed = Signal()
"""Sent by the worker, with `attempt`, once the outcome of its survey is saved."""
