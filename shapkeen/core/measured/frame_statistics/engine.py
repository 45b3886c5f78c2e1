"""Counting every frame of one file: a map over spans through an executor, and a merge."""

from collections.abc import Sequence
from functools import partial
from pathlib import Path

from ..decoded.frames import open_picture, planes_from, undecodable
from ..model import FileSurvey, Progress, Source
from ..spans.cutting import Span, plan_spans, read_span
from ..spans.run import Pool, run_parts
from ..spans.store import PartStore
from .counter import Counter
from .findings import survey_from_tally
from .model import Tally, joined


def count_span(source: Source, span: Span, threads: int = 1) -> Tally | None:
    """Return the tally of one span; None where no frame of it decodes. Runs in any process."""
    counter: Counter | None = None
    for ticks, picture in read_span(source.path, span, threads=threads):
        frame = planes_from(picture, 0)
        if counter is None:
            counter = Counter(source.reading, frame.raster, frame.depth)
        counter.add(frame, ticks)
    return counter.result() if counter else None


def _nothing(_done: int, _total: int) -> None:
    pass


def count_file(
    source: Source,
    *,
    pool: Pool | None = None,
    folder: Path | None = None,
    progress: Progress | None = None,
    spans: Sequence[Span] | None = None,
) -> Tally:
    """Return the tally of every frame of a file.

    pool: where spans run; None counts them here, one after the other. folder: keeps finished
    spans until the whole is done. progress(done, total) after each span, and may raise. The
    result does not depend on how the file was cut. Raises UnreadableFileError.
    """
    whole = joined(
        run_parts(
            plan_spans(source.path) if spans is None else spans,
            partial(count_span, source, threads=1 if pool else 0),
            pool=pool,
            store=PartStore(folder, Tally, [source], "") if folder else None,
            report=progress or _nothing,
        )
    )
    if whole is None:
        raise undecodable("no frame came out", source.path)
    return whole


def told(tally: Tally, source: Source) -> FileSurvey:
    """Return what a file's tally tells; raises UnreadableFileError where it cannot be opened."""
    opened = open_picture(source.path, threads=1)
    with opened.container:
        tick_s, start = float(opened.tick), opened.stream.start_time or 0
    return survey_from_tally(tally, source.reading, tick_s=tick_s, start=start)
