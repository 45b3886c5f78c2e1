"""Stills drawn ahead: the moments that are looked at first, so that no click on them waits.

A still out of the middle of a long group of 3840×2160 pictures takes seconds to decode. Drawing is
work of its own, behind the surveys that wait: verdicts come first.
"""

from contextlib import suppress
from typing import Any

from ...core.errors import CoreError
from ...core.judged import Comparison
from ...core.reported.report.pictures import display_of
from ..bench.services import drawn_comparison_of
from ..bench.surveying import find_attempt
from ..library.models import Attempt
from ..work import services as work
from ..work.errors import StoppedError
from ..work.kinds import LAST, Kind
from ..work.models import Job
from . import shown, stills
from .moments import strip_of

WORK = "stills"


def start_drawing(sender: object, attempt: Attempt, **_: Any) -> None:
    """Have the moments that are looked at first drawn."""
    work.start(WORK, attempt.pk)


def run_drawing(job: Job) -> None:
    """Draw the middle moment and the worst ones of both files, as they are seen at first.

    What cannot be drawn now is drawn, or its error told, when it is asked for. Raises StoppedError.
    """
    attempt = Attempt.objects.with_context().filter(pk=job.subject_id).first()
    comparison = drawn_comparison_of(attempt) if attempt else None
    if attempt is None or comparison is None:
        raise StoppedError
    strip, pairs = strip_of(comparison.survey), comparison.survey.pairs
    indices = {strip.nearest(pairs[len(pairs) // 2].export_frame), *strip.worst}
    display = display_of(comparison)[0]
    for side, reel in ((0, attempt.delivery.title.master), (1, attempt.reel)):
        frames = sorted({int(strip.rows[index][side] or 0) for index in indices})
        with suppress(CoreError, OSError):
            stills.draw(reel, frames, display)
        if not job.report(side + 1, 3):
            raise StoppedError
    with suppress(CoreError, OSError):
        draw_for_bench(attempt, comparison)


def draw_for_bench(attempt: Attempt, comparison: Comparison) -> None:
    """Draw what the Bench shows in pictures; raises CoreError where one cannot be."""
    display = display_of(comparison)[0]
    reels = attempt.delivery.title.master, attempt.reel
    for reel, frames in zip(reels, shown.band_frames(comparison), strict=True):
        stills.band(reel, frames, display).close()
    for one in shown.cause_pairs(comparison):
        stills.pair(attempt, one.frames, display, "export", whole=one.whole).close()


KIND = Kind(
    name=WORK,
    title="Drawing stills",
    unit="files",
    run=run_drawing,
    find=find_attempt,
    priority=LAST,
)
