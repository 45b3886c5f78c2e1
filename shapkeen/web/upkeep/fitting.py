"""How much work this machine does at once: by its cores, its memory and how fast its media read.

Measured once and kept beside the data, since storage is slow to measure; a setting comes first.
"""

import json
import os
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import asdict, dataclass
from itertools import islice
from pathlib import Path

from django.conf import settings

from ...core.errors import UsageError
from ..library import roots

KEPT_IN = "machine.json"
PROCESS_BYTES = 1_000_000_000
"""What one process takes that decodes and counts a pair in UHD (docs/diagnosis.md: 0.75 to 1.4)."""
PROCESS_BYTES_S = 60_000_000
"""What one process reads of mezzanine files while it decodes and counts: some 30 MB a second of
intra-coded HD at 220 Mb/s, twice that of UHD. An estimate, to be mended by whoever measures it."""
PROCESSES_A_JOB = 4
"""Beyond, a pair of a few minutes has too few spans to share out."""
MOST_JOBS = 8
BYTES_A_WEB, MOST_WEB = 4_000_000_000, 4
"""What there must be for each process that answers pages; Python uses one core in each."""
READ_BYTES, READ_S, PIECE = 256 * 1024**2, 3.0, 4 * 1024**2
LEAST_FILE = 16 * 1024**2
"""A smaller file is read before anything can be measured."""
LOOKED_AT = 400


@dataclass(frozen=True, slots=True)
class Machine:
    """cores: that may be used. memory_bytes: that may be. read_bytes_s: None: not measured yet."""

    cores: int
    memory_bytes: int
    read_bytes_s: float | None


@dataclass(frozen=True, slots=True)
class Fit:
    """jobs: at once; processes: of one survey. limit: what allows no more, in a word.

    web: processes that answer pages.
    """

    jobs: int
    processes: int
    limit: str
    web: int


def fit(machine: Machine) -> Fit:
    """Return what fits a machine: at least one job of one process."""
    by = {"cores": machine.cores, "memory": int(machine.memory_bytes * 0.7 // PROCESS_BYTES)}
    if machine.read_bytes_s is not None:
        by["storage"] = int(machine.read_bytes_s // PROCESS_BYTES_S)
    limit = min(by, key=lambda name: by[name])
    whole = max(by[limit], 1)
    jobs = max(1, min(whole // PROCESSES_A_JOB, MOST_JOBS))
    return Fit(jobs, max(1, whole // jobs), limit, fitting_web(machine.cores, machine.memory_bytes))


def fitting_web(cores: int, memory_bytes: int) -> int:
    """Return how many processes that answer pages fit a machine; how fast media read is nothing."""
    return max(1, min(cores, memory_bytes // BYTES_A_WEB, MOST_WEB))


def cores_here() -> int:
    """Return how many cores this process may use."""
    return len(os.sched_getaffinity(0))


def machine_here() -> Machine:
    """Return this machine, as it was measured or as it is measured now."""
    path = settings.CONF.data_dir / KEPT_IN
    cores, memory = cores_here(), memory_here()
    with suppress(OSError, ValueError, TypeError, KeyError):
        kept = Machine(**json.loads(path.read_text()))
        if (kept.cores, kept.memory_bytes) == (cores, memory) and kept.read_bytes_s is not None:
            return kept
    found = Machine(cores, memory, _read_bytes_s())
    with suppress(OSError):
        path.write_text(json.dumps(asdict(found)))
    return found


def memory_here() -> int:
    """Return bytes of memory of the machine, or of the control group that this process lives in."""
    whole = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    for name in ("memory.max", "memory/memory.limit_in_bytes"):
        with suppress(OSError, ValueError):
            return min(whole, int(Path("/sys/fs/cgroup", name).read_text()))
    return whole


def _read_bytes_s() -> float | None:
    """Return how fast the largest of some media files is read; None where none is large enough."""
    largest = max(islice(_media(), LOOKED_AT), key=lambda one: one[1], default=None)
    if largest is None or largest[1] < LEAST_FILE:
        return None
    with suppress(OSError):
        return _speed_of(largest[0])
    return None


def _media() -> Iterator[tuple[Path, int]]:
    for root, base in roots.roots().items():
        with suppress(OSError, UsageError):
            for path, state in roots.files_below(root, ""):
                yield base / path, state.st_size


def _speed_of(path: Path) -> float:
    """Return bytes a second, from the disk and not from what memory still holds of the file."""
    file = os.open(path, os.O_RDONLY)
    try:
        os.posix_fadvise(file, 0, 0, os.POSIX_FADV_DONTNEED)
        started, count = time.monotonic(), 0
        while count < READ_BYTES and time.monotonic() - started < READ_S:
            piece = os.read(file, PIECE)
            if not piece:
                break
            count += len(piece)
        return count / max(time.monotonic() - started, 1e-6)
    finally:
        os.close(file)


def words_of(machine: Machine, fitting: Fit) -> str:
    """Return both in a sentence."""
    speed = machine.read_bytes_s
    media = f"media read at {speed / 1e6:.0f} MB/s" if speed else "no media to measure yet"
    return (
        f"{machine.cores} cores, {machine.memory_bytes / 1e9:.0f} GB, {media}: {fitting.jobs} at "
        f"once, {fitting.processes} processes each, as {fitting.limit} allow; {fitting.web} for "
        "pages"
    )
