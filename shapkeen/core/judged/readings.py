"""How the samples of both files are to be read: from their declarations and the promise. Pure."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from ..colour.coding import Coding
from ..declared import Declaration, TraitValue
from ..measured import Move, Reading
from ..measured.model import coding_of
from ..promised import Promise, stated_by
from .evidence import is_full_range, shown_rate
from .geometry import aspect_of

UNTOLD_RATE = Fraction(25)
"""Frames a second that samples are laid out by where nothing tells the rate."""


@dataclass(frozen=True, slots=True)
class PairReading:
    """All of a promise that measuring depends on.

    master, export: how their samples are read. goal: the coding that the promise wants, None where
    it is the master's own.
    """

    master: Reading
    export: Reading
    goal: Coding | None


def read_pair_by(promise: Promise, master: Declaration, export: Declaration) -> PairReading:
    """Return how a pair is to be read under a promise."""
    return PairReading(*planned_readings(promise, master, export), promised_coding(promise, master))


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
    own, codes = _as_promised(plan_reading(master), promise), {}
    for trait in ("transfer", "primaries", "matrix"):
        codes[trait] = _code(promise.value(trait)) or getattr(own, trait) or 0
    promised_range = promise.value("range")
    full = own.full_range if promised_range is None else promised_range == "full"
    goal = Coding(**codes, full_range=full, table=_table(promise))
    return goal if goal != coding_of(own) else None


def _table(promise: Promise) -> str:
    """Return the look-up table that tones are promised to go through; empty without one."""
    value = promise.value("tone")
    return str(value.get("values", "")) if isinstance(value, Mapping) else ""


def _code(value: object) -> int | None:
    return value if isinstance(value, int) else None


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
    """Return how a master is to be read: what it leaves unsaid, as promised."""

    def had(trait: str) -> TraitValue | None:
        promised = promise.traits.get(trait)
        return (promised.converted_from or promised.value) if promised else None

    def word(trait: str) -> str | None:
        value = had(trait)
        return value if isinstance(value, str) else None

    return replace(
        master,
        moves=_moves(promise),
        transfer=master.transfer or _code(had("transfer")),
        matrix=master.matrix or _code(had("matrix")),
        primaries=master.primaries or _code(had("primaries")),
        projection=master.projection or word("projection"),
        stereo=master.stereo or word("stereo"),
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
