"""Acts on spheres: cut, turned, and edges that no longer meet."""

from collections.abc import Iterator, Set

from ...declared import TraitValue
from ..evidence import Evidence
from ..geometry import SIDES, framing_of
from ..model import Cause, explained
from ..rules.shape import is_combed
from ..rules.sphere import (
    WHOLE,
    is_open,
    is_out_of_place,
    is_torn,
    posed_by,
    turn_words,
    turned_by,
)

CUT_TRAITS = ("framing", "raster", "shown_shape", "pixel_aspect", "sphere_seam", "sphere_front")
TORN_TRAITS = ("framing", "shown_shape", "detail", "tone", "gamut", "transfer")
TILTED_TRAITS = ("framing", "detail", "tone", "gamut", "sphere_seam")


def explain_sphere(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield acts on a promised whole sphere; a cut explains the broken seam that it brings."""
    if evidence.promise.value("projection") != WHOLE or is_combed(evidence):
        return
    if is_torn(evidence) and "sphere_seam" in broken:
        yield _seam(broken)  # halves that went apart fit no place as a whole
        return
    cut = tuple(_explain_cut(evidence, broken))
    yield from cut
    if cut:
        return
    if "sphere_seam" in broken and is_out_of_place(evidence):
        # Bent, so that it fits no place and no turn: its signs are no flat picture's, then.
        yield _seam(broken, "projection", "sphere_front")
        return
    yield from _explain_turn(evidence, broken)


def _explain_cut(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield what was cut off, or blackened at the poles; first the seam, where that still shows."""
    framing = framing_of(evidence)
    if framing is None or "framing" not in broken:
        return
    same, bars = "raster" not in broken, framing.bars
    if framing.has_cut and not framing.has_bars:
        if same and "sphere_seam" in broken and is_open(evidence):
            yield _seam(frozenset({"sphere_seam"}))  # it looks whole, so the seam is seen first
            broken = broken - {"sphere_seam"}
        yield _cropped(framing.cut, broken)
    elif same and (bars["top"] or bars["bottom"]) and not (bars["left"] or bars["right"]):
        yield _bare_poles(bars, broken)


def _explain_turn(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield a turn of the content, or of its flag, and an open seam beside it."""
    framing = framing_of(evidence)
    turn = turned_by(evidence)
    left = set(broken)
    if "sphere_front" in left and turn is not None:
        cause = _turned(turn, frozenset(left))
        yield cause
        left -= set(cause.traits)
    if "pose" in left and turn is not None and (yaw := posed_by(evidence)) is not None:
        yield _posed(yaw, frozenset(left))
    if "sphere_seam" in left and framing is not None and not framing.has_bars:
        yield _seam(frozenset(left))


def _cropped(cut: dict[str, int], broken: Set[str]) -> Cause:
    values: dict[str, TraitValue] = {side: cut[side] for side in SIDES}
    sides = ", ".join(f"{side} {cut[side]}" for side in SIDES if cut[side])
    return Cause(
        id="sphere-cropped",
        traits=explained(broken, "framing", "projection", *CUT_TRAITS[1:]),
        strength=0.95,
        values=values,
        why=f"Parts of the sphere were cut off, in samples of the master: {sides}. Players lay "
        "what is left round the whole sphere: everything is stretched, and the edges do not meet.",
        remedy="re-export",
        cure="Export the whole 2:1 picture at the master's own raster, fitted and not filled.",
    )


def _bare_poles(bars: dict[str, int], broken: Set[str]) -> Cause:
    values: dict[str, TraitValue] = {side: bars[side] for side in SIDES}
    return Cause(
        id="sphere-cropped",
        traits=explained(broken, "framing", "tone", "gamut", "detail", "frames", "transfer"),
        strength=0.95,
        values=values,
        why=f"The sphere's poles are black: {bars['top']} lines above and {bars['bottom']} below. "
        "Viewers who look up or down see holes.",
        remedy="re-export",
        cure="Take mattes and bars off the timeline, and export the whole 2:1 picture again.",
    )


def _posed(yaw: float, broken: Set[str]) -> Cause:
    return Cause(
        id="sphere-turned",
        traits=explained(broken, "pose"),
        strength=0.97,
        values={"yaw": round(yaw, 3)},
        why="The picture is where it was, but a stated pose turns it: viewers begin by looking "
        "somewhere else.",
        remedy="retag",
        cure="Take the pose out of a copy, or state the promised one; the picture need not change.",
    )


def _turned(turn: tuple[float, float, float], broken: Set[str]) -> Cause:
    yaw, pitch, roll = turn
    tilted = max(abs(pitch), abs(roll)) > 0.0
    values: dict[str, TraitValue] = {"yaw": round(yaw, 3)}
    if tilted:
        values |= {"pitch": round(pitch, 3), "roll": round(roll, 3)}
    horizon = " The horizon is no longer level." if tilted else ""
    return Cause(
        id="sphere-turned",
        traits=explained(broken, "sphere_front", "pose", *(TILTED_TRAITS if tilted else ())),
        strength=0.97,
        values=values,
        why=f"The sphere's content was turned: {turn_words(turn)}.{horizon} Viewers begin by "
        "looking somewhere else.",
        remedy="re-export",
        cure="Set the orientation of the export back to none, and export again; or, where only the "
        "first view matters, state a pose that turns it back.",
    )


def _seam(broken: Set[str], *more: str) -> Cause:
    return Cause(
        id="seam-broken",
        traits=explained(broken, "sphere_seam", *TORN_TRAITS, *more),
        strength=0.9,
        values={},
        why="Left and right edge no longer meet: behind the viewer stands an upright line. Filters "
        "and overlays that stop at the frame's edge do that, and so does a shift of a part.",
        remedy="re-export",
        cure="Take filters, stabilisers and overlays that do not wrap round off the edges, and "
        "export again.",
    )
