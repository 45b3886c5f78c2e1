"""The pass over both files of a pair, in spans, with what is done kept on disk."""

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TypeVar

from ..decoded.frames import open_picture
from ..model import LikenessSeries, Progress, Source, Worst
from ..spans.run import Pool, run_apart, run_parts
from ..spans.store import PartStore, trim_stores
from .merging import merge_spans
from .model import PassFindings, SpanFindings
from .spans import PairSpan, plan_pair_spans
from .worker import Task, measure_span

LEAST_POOLED_SAMPLES = 400_000_000
"""Some 50 frames of 3840 × 2160, or 200 of 1920 × 1080: a few seconds of one process, which takes
a second to start."""
LONG_FRAMES = 20_000
"""Of both files: seven minutes of film. What looks at pictures then does so in a process of its
own: decoders and loops leave a hundred megabytes behind in the one that waits for all the rest."""
T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Means:
    """What a survey may use: an executor from outside, a folder to keep parts in, whom to tell.

    pool: for files long enough; None does all here. threads: of each decoder where the work is done
    here, 0 = any. progress(done, total) in frames of both files. worst: told the frame of the
    export that is least like what was expected, each time that one less like is found.
    """

    pool: Pool | None = None
    threads: int = 1
    folder: Path | None = None
    progress: Progress | None = None
    worst: Worst | None = None


def run_pair_pass(task: Task, *, means: Means) -> PassFindings:
    """Return all that one pass over both files shows.

    Raises UnreadableFileError where a file cannot be opened, and whatever progress raises.
    """
    spans = plan_pair_spans(task.master, task.export, task.frames)
    sources = [task.master, task.export]
    store = None
    if means.folder:
        store = PartStore(means.folder, SpanFindings, sources, repr(task))
    total = sum(source.reading.frame_count or 1 for source in sources)
    told = _Told(means.progress, total, len(spans))
    many = total * _samples(task.export) > LEAST_POOLED_SAMPLES
    pool = means.pool if len(spans) > 1 and many else None
    work: Callable[[PairSpan], SpanFindings | None] = (
        partial(measure_span, task)
        if pool
        else partial(measure_span, task, threads=means.threads, step=told.frames)
    )
    parts = run_parts(spans, work, pool=pool, store=store, report=told.spans)
    found = merge_spans(_with_worst(parts, means.worst) if means.worst else parts)
    if means.folder:
        trim_stores(means.folder)
    return found


def _with_worst(parts: Iterable[SpanFindings], tell: Worst) -> Iterator[SpanFindings]:
    """Yield the parts, and tell of each row that is less like than all before."""
    least = 2.0
    for part in parts:
        rows = LikenessSeries(part.series)
        if len(rows) and rows.column("ssim").min() < least:
            row = rows[int(rows.column("ssim").argmin())]
            least = row.ssim
            tell(row)
        yield part


def elsewhere(means: Means, work: Callable[..., T], *given: object) -> T:
    """Return what work gives of two sources and more: of long files, from a process that ends.

    Raises what work does, and as run_parts.
    """
    sources = [one for one in given if isinstance(one, Source)]
    count = sum(source.reading.frame_count or 0 for source in sources)
    if means.pool is None or count < LONG_FRAMES:
        return work(*given)
    return run_apart(partial(work, *given), means.pool, where="the opening")


def _samples(source: Source) -> int:
    opened = open_picture(source.path, threads=1)
    with opened.container:
        return int(opened.stream.width) * int(opened.stream.height)


@dataclass(slots=True)
class _Told:
    """Progress in frames: by each frame where the work is done here, else by finished spans."""

    progress: Progress | None
    total: int
    count: int
    read: int = 0

    def frames(self, read: int) -> None:
        self.read += read
        if self.progress:
            self.progress(min(self.read, self.total), self.total)

    def spans(self, done: int, _count: int) -> None:
        self.read = max(self.read, self.total * done // max(self.count, 1))
        self.frames(0)
