"""Work in parts: a map over spans through an executor, with what is done kept on disk."""

import ctypes
import os
import signal
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Executor, ProcessPoolExecutor, as_completed
from contextlib import contextmanager
from multiprocessing import get_context
from typing import TypeVar

from .store import PartStore

P = TypeVar("P")
T = TypeVar("T")
PR_SET_PDEATHSIG = 1


def run_parts(
    parts: Sequence[P],
    work: Callable[[P], T | None],
    *,
    executor: Executor | None,
    store: PartStore[T] | None,
    report: Callable[[int, int], None],
) -> list[T]:
    """Return what the parts give, those done earlier first, the others as they are finished.

    work: of one part; None where it gives nothing. It goes to other processes, so it must be
    sendable. executor: None does the work here. report(done, total) after each; it may raise.
    """
    kept = {part: store.load(part) for part in parts} if store else {}
    found = [findings for findings in kept.values() if findings is not None]
    left = [part for part in parts if kept.get(part) is None]
    known = len(parts) - len(left)
    report(known, len(parts))
    for done, (part, findings) in enumerate(_done(left, work, executor), start=known + 1):
        if findings is not None:
            found.append(findings)
            if store:
                store.save(part, findings)
        report(done, len(parts))
    return found


def _done(
    parts: Sequence[P], work: Callable[[P], T | None], executor: Executor | None
) -> Iterator[tuple[P, T | None]]:
    if executor is None:
        for part in parts:
            yield part, work(part)
        return
    futures = {executor.submit(work, part): part for part in parts}
    for future in as_completed(futures):
        yield futures[future], future.result()


def _begin(folder: str) -> None:
    """Prepare a worker process: it must end with the one that started it."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    if folder:
        os.environ["NUMBA_CACHE_DIR"] = folder


@contextmanager
def process_pool(workers: int) -> Iterator[Executor]:
    """Give a pool of worker processes, ended at the end.

    Processes, since the loops count one frame on one core, and decoding too.
    """
    executor = ProcessPoolExecutor(
        workers,
        mp_context=get_context("spawn"),
        initializer=_begin,
        initargs=(os.environ.get("NUMBA_CACHE_DIR", ""),),
    )
    try:
        yield executor
    finally:
        executor.shutdown(wait=False, cancel_futures=True)
