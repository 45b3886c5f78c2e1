"""The whole way for one pair of files: declared → promised → measured → judged."""

import os
import time
from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

from ..colour.coding import Coding
from ..declared import Declaration, fingerprint, read_declaration
from ..declared.file import check_unchanged
from ..measured import DEFAULT_FRAMES, Move, PairSurvey, Progress, Reading, Source
from ..measured.model import coding_of
from ..promised import Promise, promise_from_master, stated_by
from .evidence import Evidence, is_full_range, shown_rate
from .geometry import aspect_of
from .model import Survival
from .survival import judge_survival

UNTOLD_RATE = Fraction(25)
"""Frames a second that samples are laid out by where nothing tells the rate."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Everything that comparing one export with its master brought to light."""

    master: Declaration
    export: Declaration
    promise: Promise
    survey: PairSurvey
    survival: Survival
    read_s: float
    measure_s: float


def plan_reading(declaration: Declaration) -> Reading:
    """Return how a file's samples are to be read, from what it declares of itself."""
    transfer, matrix, primaries = (
        stated_by(declaration, trait) for trait in ("transfer", "matrix", "primaries")
    )
    layouts = [stated_by(declaration, trait) for trait in ("projection", "stereo")]
    projection, stereo = (str(said[1].value) if said else None for said in layouts)
    return Reading(
        full_range=is_full_range(declaration),
        transfer=_code(transfer[1].value if transfer else None),
        matrix=_code(matrix[1].value if matrix else None),
        rate=shown_rate(declaration)[0] or UNTOLD_RATE,
        frame_count=declaration.video.frame_count,
        primaries=_code(primaries[1].value if primaries else None),
        peak_nits=_peak(declaration),
        aspect=float(Fraction(*aspect_of(declaration))),
        projection=projection,
        stereo=stereo,
    )


def _peak(declaration: Declaration) -> float | None:
    display = stated_by(declaration, "mastering_display")
    peak = (
        display[1].value.get("max") if display and isinstance(display[1].value, Mapping) else None
    )
    return float(peak) if isinstance(peak, int | float) and peak else None


def promised_coding(promise: Promise, master: Declaration) -> Coding | None:
    """Return the coding that the promise asks for; None where it is the master's own."""
    own, codes = plan_reading(master), {}
    for trait in ("transfer", "primaries", "matrix"):
        codes[trait] = _code(promise.value(trait)) or getattr(own, trait) or 0
    promised_range = promise.value("range")
    full = own.full_range if promised_range is None else promised_range == "full"
    goal = Coding(**codes, full_range=full)
    return goal if goal != coding_of(own) else None


def _code(value: object) -> int | None:
    return value if isinstance(value, int) else None


def compare_files(
    master_path: Path,
    export_path: Path,
    *,
    overrides: Promise | None = None,
    frames: int = DEFAULT_FRAMES,
    workers: int | None = None,
    folder: Path | None = None,
    progress: Progress | None = None,
) -> Comparison:
    """Return what survived of a master in an export.

    overrides: an explicit promise; what it leaves out falls back to the master's. frames: how
    many pairs to compare, at least 1. workers: processes that count every frame, as many as cores
    if None. folder: keeps what is counted, so that a killed survey goes on where it was. Raises
    UnreadableFileError and UsageError.
    """
    from ..measured.survey.pair import survey_pair

    started = time.monotonic()
    before = {path: fingerprint(path) for path in (master_path, export_path)}
    master, export = read_declaration(master_path), read_declaration(export_path)
    promise = promise_from_master(master, overrides=overrides)
    read_s = time.monotonic() - started
    readings = planned_readings(promise, master, export)
    survey = survey_pair(
        Source(master_path, readings[0]),
        Source(export_path, readings[1]),
        frames=frames,
        goal=promised_coding(promise, master),
        workers=workers or len(os.sched_getaffinity(0)),
        folder=folder,
        progress=progress,
    )
    for path, mark in before.items():
        check_unchanged(path, mark)
    survival = judge_survival(Evidence(promise, master, export, survey))
    return Comparison(
        master=master,
        export=export,
        promise=promise,
        survey=survey,
        survival=survival,
        read_s=read_s,
        measure_s=survey.seconds,
    )


def planned_readings(
    promise: Promise, master: Declaration, export: Declaration
) -> tuple[Reading, Reading]:
    """Return how both files are to be read: the export as it is meant, whatever its tags say."""
    own = plan_reading(export)
    meant = replace(
        own,
        transfer=_code(promise.value("transfer")) or own.transfer,
        matrix=_code(promise.value("matrix")) or own.matrix,
        primaries=_code(promise.value("primaries")) or own.primaries,
    )
    return _as_promised(plan_reading(master), promise), meant


def _as_promised(master: Reading, promise: Promise) -> Reading:
    """Return how a master is to be read: what it leaves unsaid of sphere and eyes, as promised."""

    def had(trait: str) -> str | None:
        promised = promise.traits.get(trait)
        value = (promised.converted_from or promised.value) if promised else None
        return value if isinstance(value, str) else None

    return replace(
        master,
        moves=_moves(promise),
        projection=master.projection or had("projection"),
        stereo=master.stereo or had("stereo"),
    )


def _moves(promise: Promise) -> tuple[Move, ...]:
    """Return where single shots are promised to be cut, against the rest of the picture."""
    framing = promise.value("framing")
    if not isinstance(framing, Mapping):
        return ()
    whole, shots = framing.get("crop"), framing.get("shots", ())
    if not isinstance(whole, tuple) or not isinstance(shots, tuple):
        return ()
    return tuple(_move(whole, shot) for shot in shots if isinstance(shot, Mapping))


def _move(whole: tuple[Any, ...], shot: Mapping[str, Any]) -> Move:
    crop = shot["crop"]
    return Move(shot["first"], shot["last"], crop[0] - whole[0], crop[1] - whole[1])
