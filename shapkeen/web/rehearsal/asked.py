"""What a child process is told of a rehearsal."""

from typing import Any

from .models import Rehearsal


def request_of(rehearsal: Rehearsal, *, master: bool = False) -> dict[str, Any]:
    """Return what a child is told of a rehearsal. master: that is sent in place of the export."""
    delivery = rehearsal.attempt.delivery
    own = delivery.title.master.locate()
    return {
        "path": str(own if master else rehearsal.attempt.reel.locate()),
        "master": str(own),
        "promises": delivery.promise_layers() if not master else [("", "")],
        "stand_in": rehearsal.stand_in,
        "folder": str(rehearsal.folder),
    }
