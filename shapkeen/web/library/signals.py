"""What others may want to hear of the library. Sent inside the transaction that brings it about."""

from django.dispatch import Signal

attempt_added = Signal()
"""Sent with `attempt`, and `priority`: of its survey; None for the usual one."""
promise_changed = Signal()
"""Sent with `delivery`, once its new promise is saved."""
purging = Signal()
"""Sent with `attempt` before it is deleted for good: whoever keeps things of it takes them away."""
purging_title = Signal()
"""Sent with `title` before it is deleted for good, after its deliveries."""
