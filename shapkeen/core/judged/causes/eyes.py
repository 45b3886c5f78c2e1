"""Acts on two eyes: packed another way, exchanged, repeated, and moved against each other."""

from collections.abc import Iterator, Set

from ...declared import TraitValue
from ...geometry.packing import way_of
from ...promised import TWO_EYES
from ..evidence import Evidence
from ..geometry import shown_ratio
from ..model import Cause, explained
from ..pairing import look_exchanged
from ..rules.eyes import (
    ONE,
    convergence_change,
    eyes_of,
    height_between,
    is_squeezed,
)

PACKED_TRAITS = ("raster", "shown_shape", "pixel_aspect", "display_size", "framing", "detail")
FRAME_SEQUENTIAL = "frame-sequential"
FRAME_SEQUENTIAL_TRAITS = ("frames", "tone", "gamut", "detail", "framing")
"""Frames that follow the other way round are held against their neighbours'."""
MOVED_TRAITS = ("framing", "shown_shape", "parallax", "detail", "tone")
PARALLAX_TRAITS = ("parallax", "convergence", "eye_height", "eye_sharpness", "eye_colour")


def explain_eyes(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield acts on promised two eyes; how they are packed first, then how they lie."""
    promised, found = evidence.promise.value("stereo"), eyes_of(evidence)
    if promised not in TWO_EYES or found is None:
        return
    left = set(broken)
    if "stereo" in left:
        for cause in _explain_packing(evidence, str(promised), frozenset(left)):
            yield cause
            left -= set(cause.traits)
    if "eye_height" in left and (drop := height_between(evidence)) is not None:
        cause = _offset(drop, frozenset(left))
        yield cause
        left -= set(cause.traits)
    if "convergence" in left and (shift := convergence_change(evidence)) is not None:
        yield _shifted(shift, frozenset(left))


def _explain_packing(evidence: Evidence, promised: str, broken: Set[str]) -> Iterator[Cause]:
    found = eyes_of(evidence)
    picture = found.packings[1] if found else None
    spoken = evidence.spoken("stereo")
    if found is not None and found.swapped:
        yield _swapped(promised, broken)
    elif found is not None and found.repeated:
        yield _repeated(broken)
    elif found is not None and look_exchanged(found):
        yield _swapped(promised, broken)
    elif picture == ONE:
        if spoken and spoken[0] != ONE:
            yield _one_as_two(spoken[0], broken)
        else:
            yield _packed(promised, ONE, broken)
    elif picture is not None and picture != promised:
        here, there = way_of(promised), way_of(picture)
        told = bool(spoken) and all(value == picture for value in spoken)
        if here and there and here[0] == there[0] and not told:
            yield _swapped(promised, broken)
        else:
            yield _packed(promised, picture, broken)
    elif picture is not None and is_squeezed(evidence):
        ratio = shown_ratio(evidence) or 1.0
        yield _packed(promised, promised, broken, "half" if ratio < 1 else "full")


def _repeated(broken: Set[str]) -> Cause:
    return Cause(
        id="eye-repeated",
        traits=explained(broken, "stereo", *PARALLAX_TRAITS),
        strength=0.95,
        values={},
        why="Both eyes are shown one and the same picture: there is no depth at all.",
        remedy="re-export",
        cure="Put the second eye back into its place in the export, and export again.",
    )


def _one_as_two(stated: TraitValue, broken: Set[str]) -> Cause:
    return Cause(
        id="stereo-misflagged",
        traits=explained(broken, "stereo", *PACKED_TRAITS, *PARALLAX_TRAITS),
        strength=0.95,
        values={"from": ONE, "to": stated},
        why=f"The picture holds one eye, but the file says {stated}: players cut it in two and "
        "show each eye another half.",
        remedy="re-export",
        cure="Export both eyes as promised; or, if one is wanted, flag the copy as one eye.",
    )


def _packed(promised: str, picture: str, broken: Set[str], eyes: str = "") -> Cause:
    values: dict[str, TraitValue] = {"from": promised, "to": picture}
    what = f"packed {picture} where {promised} was promised"
    if eyes:
        values["eyes"] = eyes
        what = f"packed at {eyes} size where the other was promised"
    if picture == ONE:
        what = "no longer both there: one alone is left"
    return Cause(
        id="layout-changed",
        traits=explained(broken, "stereo", *PACKED_TRAITS, *PARALLAX_TRAITS),
        strength=0.95,
        values=values,
        why=f"The eyes are {what}.",
        remedy="re-export",
        cure=f"Set the packing of the export to {promised}, and export again; or promise the "
        "packing that the receiver takes.",
    )


def _swapped(promised: str, broken: Set[str]) -> Cause:
    more = FRAME_SEQUENTIAL_TRAITS if promised == FRAME_SEQUENTIAL else ()
    return Cause(
        id="eyes-swapped",
        traits=explained(broken, "stereo", *PARALLAX_TRAITS, *more),
        strength=0.97,
        values={},
        why="The left eye's picture lies in the right eye's place, and the other way round: near "
        "things seem far, and eyes ache.",
        remedy="re-export",
        cure="Exchange the eyes in the export; or flag the copy with the order that it has, if "
        "the receiver takes that.",
    )


def _offset(drop: float, broken: Set[str]) -> Cause:
    word = "lower" if drop > 0 else "higher"
    return Cause(
        id="eyes-offset",
        traits=explained(broken, "eye_height", *MOVED_TRAITS),
        strength=0.95,
        values={"dy": round(drop, 3)},
        why=f"The right eye's picture was moved {abs(drop):.2f} % of its height {word}: no eye can "
        "look higher than the other.",
        remedy="re-export",
        cure="Set both eyes' vertical positions back to the same value, and export again.",
    )


def _shifted(shift: float, broken: Set[str]) -> Cause:
    way = "behind" if shift > 0 else "in front of"
    return Cause(
        id="convergence-shifted",
        traits=explained(broken, "convergence", *MOVED_TRAITS),
        strength=0.95,
        values={"shift": round(shift, 3)},
        why=f"The eyes were shifted against each other by {shift:+.2f} % of the width: the whole "
        f"scene moved to further {way} the screen.",
        remedy="re-export",
        cure="Set the convergence back to the promised one, the same in every packing, and export "
        "again.",
    )
