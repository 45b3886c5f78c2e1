"""Comparing for tests: a pair of known pictures and readings is judged from one survey.

Tag-only cases differ in what their headers say, not in a packet: they need no survey of their own.
"""

import hashlib
import os
from collections.abc import Callable, Iterator, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any, TypeVar

import av

from shapkeen.core.compared import judge_survey, survey_files
from shapkeen.core.declared import read_declaration
from shapkeen.core.judged import Comparison, read_pair_by
from shapkeen.core.measured import PairSurvey
from shapkeen.core.promised import Promise, promise_from_master

EVERY = "SHAPKEEN_EVERY_CASE"
MOST_KEPT = 64
_SURVEYS: dict[tuple[object, ...], PairSurvey] = {}


Case = TypeVar("Case")


def shared_out(cases: Sequence[Case], share: int, shares: int = 3) -> Iterator[tuple[int, Case]]:
    """Yield one share of the cases with their numbers; all of them where `make acts` asks.

    So that a test of every act on every photograph does not cost minutes each time.
    """
    every = os.environ.get(EVERY)
    for number, case in enumerate(cases):
        if every or number % shares == share % shares:
            yield number, case


def in_acts(test: Callable[..., None]) -> Callable[..., None] | None:
    """Mark a test that goes close by where another one has been: only `make acts` runs it."""
    return test if os.environ.get(EVERY) else None


@lru_cache(maxsize=512)
def _pictures(path: Path, _size: int, _changed_ns: int) -> str:
    """Return a digest of a file's coded pictures and sound with their times; headers apart."""
    digest = hashlib.sha256()
    with av.open(str(path), metadata_errors="replace") as container:
        stream = container.streams.video[0]
        digest.update(f"{stream.time_base} {stream.width} {stream.height}".encode())
        tracks = [stream, *container.streams.audio[:1]]
        for packet in container.demux(tracks):
            told = packet.stream_index, packet.pts, packet.dts, packet.duration
            digest.update(f"{told}".encode())
            digest.update(bytes(packet))
    return digest.hexdigest()


def pictures_of(path: Path) -> str:
    status = path.stat()
    return _pictures(path, status.st_size, status.st_mtime_ns)


def compared(
    master: Path,
    export: Path,
    *,
    overrides: Promise | None = None,
    frames: int = 6,
    workers: int | None = 1,
    **more: Any,
) -> Comparison:
    """Return what compare_files would; from a survey made before where that is the same."""
    declared = read_declaration(master), read_declaration(export)
    reading = read_pair_by(promise_from_master(declared[0], overrides=overrides), *declared)
    counts = [one.video.frame_count for one in declared]
    key = (pictures_of(master), pictures_of(export), reading, frames, *counts)
    if key not in _SURVEYS or more:
        made = survey_files(
            master, export, overrides=overrides, frames=frames, workers=workers, **more
        )
        if len(_SURVEYS) >= MOST_KEPT:
            _SURVEYS.pop(next(iter(_SURVEYS)))
        _SURVEYS[key] = made.survey
    return judge_survey(*declared, _SURVEYS[key], overrides=overrides)
