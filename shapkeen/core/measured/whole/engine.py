"""Counting every frame of a file: a map over spans through an executor, and a merge."""

import ctypes
import os
import signal
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor, as_completed
from contextlib import contextmanager
from multiprocessing import get_context
from pathlib import Path

from ..frames import planes_from, undecodable
from ..model import Progress, Source
from .counter import Counter
from .model import Tally, joined
from .spans import Span, plan_spans, read_span
from .store import SpanStore

PR_SET_PDEATHSIG = 1


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
    executor: Executor | None = None,
    folder: Path | None = None,
    progress: Progress | None = None,
    spans: Sequence[Span] | None = None,
) -> Tally:
    """Return the tally of every frame of a file.

    executor: where spans run; None counts them here, one after the other. folder: keeps finished
    spans until the whole is done. progress(done, total) after each span, and may raise. The
    result does not depend on how the file was cut. Raises UnreadableFileError.
    """
    spans = plan_spans(source.path) if spans is None else spans
    store = SpanStore(folder, source) if folder else None
    report = progress or _nothing
    kept = {span: store.load(span) for span in spans} if store else {}
    found = {span: tally for span, tally in kept.items() if tally is not None}
    left = [span for span in spans if span not in found]
    known = len(found)
    report(known, len(spans))
    for done, (span, tally) in enumerate(_counted(source, left, executor), start=known + 1):
        if tally is not None:
            found[span] = tally
            if store:
                store.save(span, tally)
        report(done, len(spans))
    whole = joined(found.values())
    if whole is None:
        raise undecodable("no frame came out", source.path)
    return whole


def _counted(
    source: Source, spans: Sequence[Span], executor: Executor | None
) -> Iterator[tuple[Span, Tally | None]]:
    if executor is None:
        for span in spans:
            yield span, count_span(source, span, 0)
        return
    futures = {executor.submit(count_span, source, span): span for span in spans}
    for future in as_completed(futures):
        yield futures[future], future.result()


def _begin(folder: str) -> None:
    """Prepare a worker process: it must end with the one that started it."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    if folder:
        os.environ["NUMBA_CACHE_DIR"] = folder


@contextmanager
def process_pool(workers: int) -> Iterator[Callable[[], Executor]]:
    """Give a maker of a pool of worker processes, made at first need and ended at the end.

    Processes, since the loops count one frame on one core, and decoding too.
    """
    made: list[ProcessPoolExecutor] = []

    def pool() -> Executor:
        if not made:
            made.append(
                ProcessPoolExecutor(
                    workers,
                    mp_context=get_context("spawn"),
                    initializer=_begin,
                    initargs=(os.environ.get("NUMBA_CACHE_DIR", ""),),
                )
            )
        return made[0]

    try:
        yield pool
    finally:
        for executor in made:
            executor.shutdown(wait=False, cancel_futures=True)
