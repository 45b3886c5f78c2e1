"""Stills drawn ahead: the moments that are looked at first, so that no click on them waits.

A still out of the middle of a long group of 3840×2160 pictures takes seconds to decode.
"""

from contextlib import suppress
from typing import Any

from ...core.colour.codepoints import HDR_TRANSFERS
from ...core.errors import CoreError
from ...core.rehearsed import HDR_DISPLAYS, SDR_DISPLAYS
from ..bench.services import comparison_of
from ..library.models import Attempt
from . import stills
from .moments import strip_of


def draw_ahead(sender: object, attempt: Attempt, **_: Any) -> None:
    """Draw the middle moment and the worst ones of both files, as they are seen at first.

    Whatever goes wrong here goes unsaid: each still is drawn when it is asked for.
    """
    comparison = comparison_of(attempt)
    if comparison is None:
        return
    strip, pairs = strip_of(comparison.survey), comparison.survey.pairs
    indices = {strip.nearest(pairs[len(pairs) // 2].export_frame), *strip.worst}
    transfer = comparison.promise.value("transfer")
    display = next(iter(HDR_DISPLAYS if transfer in HDR_TRANSFERS else SDR_DISPLAYS))
    for side, reel in ((0, attempt.delivery.title.master), (1, attempt.reel)):
        frames = sorted({int(strip.rows[index][side] or 0) for index in indices})
        with suppress(CoreError, OSError):
            stills.draw(reel, frames, display)
