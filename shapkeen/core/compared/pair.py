"""Surveying a pair of files, and comparing them: reading, measuring and judging in one call."""

import os
import time
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from ..declared import Declaration, fingerprint, read_declaration
from ..declared.file import Fingerprint, check_unchanged
from ..errors import about
from ..judged import Comparison, read_pair_by
from ..measured import DEFAULT_FRAMES, PairSurvey, Progress, Source, Worst
from ..promised import Promise, promise_from_master
from .judgement import judge_survey
from .state import FileState, state_of, survey_key

if TYPE_CHECKING:
    from ..measured.spans.run import Pool


@dataclass(frozen=True, slots=True)
class SurveyedPair:
    """A survey with all that it belongs to: what both files declared, their states, its key."""

    key: str
    states: tuple[FileState, FileState]
    master: Declaration
    export: Declaration
    survey: PairSurvey
    read_s: float


PARTS = ("master", "export")


def _read(part: str, path: Path) -> tuple[Fingerprint, FileState, Declaration]:
    """Return a file's mark, its state, and what it declares; an error says which file it is."""
    with about(part, path.name):
        return fingerprint(path), state_of(path), read_declaration(path)


def survey_files(
    master_path: Path,
    export_path: Path,
    *,
    overrides: Promise | None = None,
    frames: int = DEFAULT_FRAMES,
    workers: int | None = None,
    pool: "Pool | None" = None,
    folder: Path | None = None,
    progress: Progress | None = None,
    worst: Worst | None = None,
    quick: bool = False,
) -> SurveyedPair:
    """Return all that is declared and measured of a pair, read as a promise asks for.

    overrides: an explicit promise; what it leaves out falls back to the master's. frames: how
    many pairs to compare closely, at least 1. workers: processes that measure, as many as cores
    if None. pool: an executor given from outside, in their place. folder: keeps finished spans,
    so that a killed survey goes on where it was. progress, worst: as in survey_pair. quick: only
    a first look, where a few pairs show how the two lie over each other. Raises
    UnreadableFileError, UsageError, and InternalError where the machine ended a process.
    """
    from ..measured.spans.chosen import chosen_pool
    from ..measured.survey.pair import look_at_pair, survey_pair

    count = workers or len(os.sched_getaffinity(0))
    started = time.monotonic()
    paths = (master_path, export_path)
    (mark, state, master), (export_mark, export_state, export) = map(_read, PARTS, paths)
    reading = read_pair_by(promise_from_master(master, overrides=overrides), master, export)
    read_s = time.monotonic() - started
    sources = Source(master_path, reading.master), Source(export_path, reading.export)
    survey = look_at_pair(*sources, goal=reading.goal) if quick else None
    survey = survey or survey_pair(
        *sources,
        frames=frames,
        goal=reading.goal,
        pool=pool or chosen_pool(count),
        threads=int(count == 1),
        folder=folder,
        progress=progress,
        worst=worst,
    )
    for part, path, before in zip(PARTS, paths, (mark, export_mark), strict=True):
        with about(part, path.name):
            check_unchanged(path, before)
    key = survey_key(state, export_state, reading, frames=frames, stage=survey.stage)
    return SurveyedPair(key, (state, export_state), master, export, survey, read_s)


def compare_files(
    master_path: Path,
    export_path: Path,
    *,
    overrides: Promise | None = None,
    frames: int = DEFAULT_FRAMES,
    workers: int | None = None,
    folder: Path | None = None,
    progress: Progress | None = None,
    quick: bool = False,
) -> Comparison:
    """Return what survived of a master in an export; arguments and errors as survey_files."""
    made = survey_files(
        master_path,
        export_path,
        overrides=overrides,
        frames=frames,
        workers=workers,
        folder=folder,
        progress=progress,
        quick=quick,
    )
    return judge_survey(
        made.master, made.export, made.survey, overrides=overrides, read_s=made.read_s
    )
