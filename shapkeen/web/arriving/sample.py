"""A pair to try with: the demo's master, and an export of it that was injured on the way."""

from typing import Any

from ...demo.shipped import SHIPPED
from ..library.models import Attempt, Title
from ..library.services import add_attempt, create_title
from ..library.uploads import copy_in
from ..work.kinds import SOON

MASTER, EXPORT = "orrery-keeper-hdr-master.mov", "orrery-cormorant.mp4"
TITLE, DELIVERY = "The Orrery Keeper, a sample", "Cormorant Screens"


def bring_sample(*, by: Any) -> Attempt:
    """Return the sample's attempt, its survey under way; made once, found again after.

    Raises CoreError, and OSError where the disk does not take it.
    """
    there = Title.objects.filter(name=TITLE, binned_at=None).first()
    title = there or create_title(TITLE, "", "uploads", copy_in(SHIPPED / MASTER), by=by)
    known = Attempt.objects.filter(delivery__title=title, delivery__name=DELIVERY, binned_at=None)
    return known.first() or add_attempt(
        title, DELIVERY, "uploads", copy_in(SHIPPED / EXPORT), by=by, priority=SOON
    )
