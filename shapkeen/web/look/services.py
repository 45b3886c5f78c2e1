"""What the eyes' page asks the core for, and the convergence that it keeps."""

from django.db import transaction

from ...core.geometry.parallax import Screen
from ...core.judged import Comparison
from ...core.promised import Promise, Promised, promise_to_json
from ...core.reported.drawings import SCREEN
from ...core.reported.figures.eyes import eyes_figure
from ...core.reported.immersive import eyes_lines
from ..library.models import Title
from ..library.services import User, change_promise


def usual_screen() -> Screen:
    """Return the screen that is told for until another is chosen."""
    return SCREEN


def parallax_told(comparison: Comparison, screen: Screen) -> dict[str, object]:
    """Return the drawing of both files' parallax on a screen, its lines, and its limits in %."""
    found = comparison.survey.eyes
    moments = found.moments if found else ()
    low, high = screen.comfort
    return {
        "screen": screen,
        "figure": eyes_figure(moments, screen) if moments else "",
        "lines": list(eyes_lines(comparison, screen)),
        "limits": f"{low:.4f} {high:.4f} {screen.divergence_percent:.4f}",
    }


@transaction.atomic
def keep_convergence(title: Title, shift: float, *, by: User) -> int:
    """Promise one convergence in every delivery of a title; return how many there are.

    shift: of the right eye against the master's, in % of the width. Once set, it must be the same
    in every packing that is delivered.
    """
    deliveries = list(title.deliveries.all())
    for delivery in deliveries:
        own = delivery.overrides()
        traits = dict(own.traits) if own else {}
        traits["convergence"] = Promised(
            value={"shift": round(shift, 3)}, origin="kept in Look", explicit=True
        )
        change_promise(delivery, promise_to_json(Promise(traits=traits)), by=by)
    return len(deliveries)
