"""What other applications may hear of work, without this one knowing them."""

from django.dispatch import Signal

failed = Signal()
"""Sent with job: work that failed."""
