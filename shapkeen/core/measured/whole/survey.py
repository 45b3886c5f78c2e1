"""The whole survey of one file: plan spans, count them, and tell what was found."""

from collections.abc import Sequence
from concurrent.futures import Executor
from pathlib import Path

from ..frames import open_picture
from ..model import FileSurvey, Progress, Source
from .engine import count_file, process_pool
from .findings import survey_from_tally
from .store import trim_stores

LEAST_POOLED_SAMPLES = 400_000_000
"""Some 50 frames of 3840 × 2160, or 200 of 1920 × 1080: a few seconds of one process."""


def survey_file(
    source: Source,
    *,
    executor: Executor | None = None,
    folder: Path | None = None,
    progress: Progress | None = None,
) -> FileSurvey:
    """Return what every frame of a file shows.

    executor, folder, progress: as in engine.count_file. Raises UnreadableFileError where no frame
    decodes.
    """
    opened = open_picture(source.path, threads=1)
    with opened.container:
        tick_s, start = float(opened.tick), opened.stream.start_time or 0
    tally = count_file(source, executor=executor, folder=folder, progress=progress)
    return survey_from_tally(tally, source.reading, tick_s=tick_s, start=start)


def survey_files(
    sources: Sequence[Source], *, workers: int, folder: Path | None, progress: Progress | None
) -> list[FileSurvey]:
    """Return the surveys of several files, one after the other, with one pool of processes.

    workers: processes to count in; small files are counted here, for a pool takes a second to
    start. progress counts frames of all files together.
    """
    totals = [_frames(source) for source in sources]
    before, found = 0, []
    with process_pool(workers) as pool:
        for source, total in zip(sources, totals, strict=True):
            large = workers > 1 and total * _samples(source) > LEAST_POOLED_SAMPLES

            def report(done: int, spans: int, *, start: int = before, mine: int = total) -> None:
                if progress:
                    progress(start + done * mine // max(spans, 1), sum(totals))

            executor = pool() if large else None
            found.append(survey_file(source, executor=executor, folder=folder, progress=report))
            before += total
    if folder:
        trim_stores(folder)
    return found


def _frames(source: Source) -> int:
    return source.reading.frame_count or 1


def _samples(source: Source) -> int:
    opened = open_picture(source.path, threads=1)
    with opened.container:
        return int(opened.stream.width) * int(opened.stream.height)
