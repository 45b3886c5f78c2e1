"""Work in parts: a map over spans through an executor, with what is done kept on disk."""

import ctypes
import os
import signal
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import (
    FIRST_COMPLETED,
    BrokenExecutor,
    Executor,
    Future,
    ProcessPoolExecutor,
    wait,
)
from contextlib import AbstractContextManager, contextmanager
from dataclasses import dataclass
from functools import partial
from itertools import islice
from multiprocessing import get_context
from typing import Any, Protocol, TypeVar

from ...errors import InternalError, UnreadableFileError
from .store import PartStore

P = TypeVar("P")
T = TypeVar("T")
PR_SET_PDEATHSIG = 1
M_MMAP_THRESHOLD, LARGE_BYTES = -3, 1 << 18
"""mallopt(3): from this size on, memory goes back to the system as soon as it is free."""


class Pool(Protocol):
    """Gives an executor, and ends it: of processes here, or of a cluster.

    shares_disk: whether what is written there lies here too; else it must come back by value.
    at_once: how many parts it is given before one of them has come back.
    """

    @property
    def shares_disk(self) -> bool:
        """Return whether files that are written there are seen here."""

    @property
    def at_once(self) -> int:
        """Return how many parts keep all of its processes busy."""

    def __call__(self) -> AbstractContextManager[Executor]:
        """Give an executor."""


CRASHES = frozenset({signal.SIGSEGV, signal.SIGABRT, signal.SIGBUS, signal.SIGFPE, signal.SIGILL})
"""Signals by which a decoder goes down of itself."""


def run_parts(
    parts: Sequence[P],
    work: Callable[[P], T | None],
    *,
    pool: Pool | None,
    store: PartStore[T] | None,
    report: Callable[[int, int], None],
    tick: Callable[[], None] | None = None,
) -> Iterator[T]:
    """Yield what the parts give, those done earlier first, the others as they are finished.

    None of it is held: of a film it would be gigabytes.

    work: of one part; None where it gives nothing. It goes to other processes, so it must be
    sendable. pool: None does the work here. report(done, total) after each; it may raise. tick: is
    called every now and then while a pool works; it may raise too. Raises UnreadableFileError where
    a decoder goes down at one part twice, InternalError where a process was ended from outside.
    """
    left: list[P] = []
    for part in parts:
        kept = store.load(part) if store else None
        if kept is None:
            left.append(part)
        else:
            yield kept
    known = len(parts) - len(left)
    report(known, len(parts))
    for done, (part, findings) in enumerate(_done(left, work, pool, tick), start=known + 1):
        if findings is not None:
            if store:
                store.save(part, findings)
            yield findings
        report(done, len(parts))


TICK_S = 0.5


def _done(
    parts: Sequence[P],
    work: Callable[[P], T | None],
    pool: Pool | None,
    tick: Callable[[], None] | None,
) -> Iterator[tuple[P, T | None]]:
    """Yield each part with what it gives; where a worker process goes down, one by one."""
    if pool is None:
        for part in parts:
            yield part, work(part)
        return
    left = list(parts)
    try:
        with pool() as executor:
            for part, findings in _few_at_once(parts, work, executor, pool.at_once, tick):
                yield part, findings
                left.remove(part)
    except BrokenExecutor:
        # The pool does not say which part brought it down: each of the others gets one to itself.
        for part in left:
            yield part, run_apart(partial(work, part), pool, where=str(part))


def _few_at_once(
    parts: Sequence[P],
    work: Callable[[P], T | None],
    executor: Executor,
    at_once: int,
    tick: Callable[[], None] | None,
) -> Iterator[tuple[P, T | None]]:
    """Yield each part with what it gives, never more than so many of them under way.

    What is done would else wait here for whoever takes it, a film of it.
    """
    waiting = iter(parts)
    futures = {executor.submit(work, part): part for part in islice(waiting, at_once)}
    while futures:
        finished, _ = wait(futures, TICK_S if tick else None, FIRST_COMPLETED)
        while finished:
            future = finished.pop()
            for part in islice(waiting, 1):
                futures[executor.submit(work, part)] = part
            yield futures.pop(future), future.result()
        if tick:
            tick()


def run_apart(work: Callable[[], T], pool: Pool, *, where: str) -> T:
    """Return what work gives in a pool of its own, tried twice; raises as run_parts.

    where: the place that an error tells.
    """
    told = ""
    for _ in range(2):
        with pool() as executor:
            try:
                return executor.submit(work).result()
            except BrokenExecutor:
                told = _ended_by(executor)
    raise UnreadableFileError(
        "Decoding brought the decoder down twice at the same place. The file is damaged there: "
        "copy or export it again.",
        code="decoder-crashed",
        where=f"{told} at {where}",
    )


def _ended_by(executor: Executor) -> str:
    """Return by which signal a worker crashed; raises InternalError where it was killed."""
    executor.shutdown(wait=True)  # its own thread takes the processes' ends: two that ask race
    processes = getattr(executor, "_ended", ())
    codes = {process.exitcode for process in processes if process.exitcode}
    crashed = sorted(-code for code in codes if -code in CRASHES)
    if crashed or not codes:
        return signal.Signals(crashed[0]).name if crashed else "unknown signal"
    raise InternalError(
        "A process that measured was ended from outside, perhaps for want of memory; the file is "
        "not to blame. Measure again.",
        code="child-killed",
        where=", ".join(signal.Signals(-code).name for code in sorted(codes) if code < 0),
    )


@contextmanager
def _interrupt_held() -> Iterator[None]:
    """Hold a terminal's Ctrl-C back while processes are begun.

    What it means is for us to say: they never hear of it. And one that was begun by halves, since
    the interrupt came while it was told what to do, would complain of that on the terminal.
    """
    ours = threading.current_thread() is threading.main_thread()
    held: list[tuple[Any, ...]] = []
    handler = signal.signal(signal.SIGINT, lambda *come: held.append(come)) if ours else None
    mask = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, mask)
        if ours:
            signal.signal(signal.SIGINT, handler or signal.SIG_DFL)
        if held and callable(handler):
            handler(*held[0])


class _WatchedPool(ProcessPoolExecutor):
    """A pool that remembers its processes, so that it can be told how they ended."""

    _ended: list[Any]

    def submit(self, *args: Any, **kwargs: Any) -> "Future[Any]":
        """Submit as the pool does; it starts its processes then."""
        with _interrupt_held():
            future = super().submit(*args, **kwargs)
        self._ended = list((self._processes or {}).values())
        return future


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
    # Parts come as arrays of megabytes. The allocator would learn to keep such, and never let go.
    ctypes.CDLL(None).mallopt(M_MMAP_THRESHOLD, LARGE_BYTES)
    executor = _WatchedPool(
        workers,
        mp_context=get_context("spawn"),
        initializer=_begin,
        initargs=(os.environ.get("NUMBA_CACHE_DIR", ""),),
    )
    try:
        yield executor
    except BaseException:
        # Nobody waits for what is being measured: it would hold up the end for a whole span.
        for process in getattr(executor, "_ended", ()):
            process.kill()
        raise
    finally:
        executor.shutdown(wait=False, cancel_futures=True)


@dataclass(frozen=True, slots=True)
class Processes:
    """A pool of so many processes of this machine."""

    workers: int
    shares_disk = True

    @property
    def at_once(self) -> int:
        """Return how many parts keep its processes busy: one in hand for each."""
        return 2 * self.workers

    def __call__(self) -> AbstractContextManager[Executor]:
        """Give a pool of processes."""
        return process_pool(self.workers)


def processes(workers: int) -> Pool | None:
    """Return a pool of so many processes; None for one, which needs no pool."""
    return Processes(workers) if workers > 1 else None
