"""Geometric acts: squeeze, stretch, bars, cuts, turns, and fewer samples."""

from collections.abc import Iterator, Set

from ...declared import TraitValue
from ...measured import Astray, Overlay
from .. import tolerances
from ..evidence import Evidence
from ..geometry import (
    SIDES,
    Framing,
    aspect_of,
    framing_of,
    overlays_of,
    shown_ratio,
    stored_aspect,
)
from ..model import Cause, explained
from ..rules.shape import frames_astray, is_combed

WOVEN_TRAITS = ("detail", "framing", "shown_shape", "frames", "tone", "gamut")
"""Two moments in one frame spoil each of these measures."""
SHAPE_TRAITS = ("pixel_aspect", "shown_shape", "raster", "display_size")


def explain_weave(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield interlaced where frames are woven from two fields."""
    if "scan" in broken and is_combed(evidence):
        yield Cause(
            id="interlaced",
            traits=explained(broken, "scan", *WOVEN_TRAITS),
            strength=0.95,
            values={},
            why="Frames are woven from two fields of different moments: edges comb where anything "
            "moves.",
            remedy="re-export",
            cure="Set the timeline and the export to progressive frames, and export again.",
        )


def explain_shape(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield the geometric acts; a wrong shape explains a changed raster, bars explain scale."""
    survey = evidence.survey
    if survey is None or survey.registration is None or is_combed(evidence):
        return  # woven frames fit no place
    if broken & {"eye_size", "eye_time"}:
        return  # nor do eyes that no longer belong together
    left = set(broken)
    if not evidence.in_conflict("pixel_aspect"):
        for cause in _explain_ratio(evidence, frozenset(left)):
            yield cause
            left -= set(cause.traits)
    for cause in _explain_turn(evidence, frozenset(left)):
        yield cause
        left -= set(cause.traits)
    framing = framing_of(evidence)
    if framing is not None and not framing.is_whole and "framing" in left:
        detail = survey.detail
        enlarged = {"detail"} & left if detail is not None and detail.is_enlarged else set()
        yield from _explain_framing(framing, frozenset(left), tuple(enlarged))
        return
    if framing is not None and "framing" in left and (overlays := overlays_of(evidence)):
        yield _overlay(overlays, frozenset(left))
    elif framing is not None and "framing" in left and (astray := frames_astray(evidence)):
        yield _astray(astray, frozenset(left))
    if "raster" in left:
        yield from _explain_size(evidence)


def _explain_ratio(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    ratio = shown_ratio(evidence)
    tolerance = evidence.promised("shown_shape").tolerance or tolerances.SHAPE_RATIO
    if ratio is None or abs(ratio - 1) <= tolerance or not broken & {*SHAPE_TRAITS}:
        return
    values: dict[str, TraitValue] = {"ratio": round(ratio, 4)}
    own, stated, stored = (
        aspect_of(evidence.master),
        aspect_of(evidence.export),
        stored_aspect(evidence),
    )
    if own != (1, 1) and stated == (1, 1) and stored == own:
        yield Cause(
            id="squeeze-unflagged",
            traits=explained(broken, *SHAPE_TRAITS),
            strength=0.97,
            values=values,
            why=f"The picture is still stored squeezed, but its pixel aspect {own[0]}:{own[1]} is "
            "no longer stated: everything is shown too narrow.",
            remedy="retag",
            cure=f"Write the pixel aspect {own[0]}:{own[1]} into a copy, in wrapper and stream; or "
            "export again with the picture widened to square samples.",
        )
    elif own != (1, 1) and stated == own and stored == (1, 1):
        yield Cause(
            id="squeeze-doubled",
            traits=explained(broken, *SHAPE_TRAITS),
            strength=0.97,
            values=values,
            why="The picture was widened already, but is still flagged as squeezed "
            f"({own[0]}:{own[1]}): players widen it a second time.",
            remedy="retag",
            cure="Set the pixel aspect to 1:1 in a copy, in wrapper and stream.",
        )
    else:
        yield Cause(
            id="stretched",
            traits=explained(broken, *SHAPE_TRAITS),
            strength=0.9,
            values=values,
            why=f"The picture was resampled to another shape: shown width is {ratio:.3f} of what "
            f"was promised.{_of_sphere(evidence)}",
            remedy="re-export",
            cure="Export again with width and height scaled alike; fit with bars or cut instead of "
            "filling the raster.",
        )


def _of_sphere(evidence: Evidence) -> str:
    if evidence.promise.value("projection") != "equirectangular":
        return ""
    return " A whole sphere is 2:1: in 16:9, 3840×2160 say, players stretch it."


def _explain_turn(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    place = evidence.survey.registration if evidence.survey else None
    if place is None:
        return
    if place.mirrored:
        upside_down = place.turn == 180
        axis = "vertical" if upside_down else "horizontal"
        yield Cause(
            id="mirrored",
            traits=("framing",),
            strength=0.9,
            values={"axis": axis},
            why="The picture is mirrored in its frame.",
            remedy="re-export",
            cure="Take the flip out of the export's transform and export again.",
        )
    elif place.turn:
        # A quarter turn exchanges the sides of the raster.
        raster = ("raster",) if place.turn % 180 else ()
        yield Cause(
            id="rotated",
            traits=explained(broken, "framing", *raster),
            strength=0.9,
            values={"degrees": place.turn},
            why=f"The picture was turned by {place.turn} degrees clockwise in its frame.",
            remedy="re-export",
            cure="Take the turn out of the export's transform and export again.",
        )


def _sides(counts: dict[str, int]) -> dict[str, TraitValue]:
    return {side: counts[side] for side in SIDES}


def _sides_words(counts: dict[str, int]) -> str:
    return ", ".join(f"{side} {counts[side]}" for side in SIDES if counts[side])


def _explain_framing(
    framing: Framing, broken: Set[str], enlarged: tuple[str, ...]
) -> Iterator[Cause]:
    """enlarged: detail, where what is left was enlarged and so holds no more than before."""
    # Fitted into a smaller picture or cut from a larger one: the raster follows the framing.
    traits = explained(broken, "framing", "raster", "pixel_aspect")
    if framing.shift:
        yield _shifted(framing.shift, traits)
        return
    if framing.has_bars:
        upright = bool(framing.bars["top"] or framing.bars["bottom"])
        sides = bool(framing.bars["left"] or framing.bars["right"])
        kind = {(True, True): "windowboxed", (True, False): "letterboxed"}.get(
            (upright, sides), "pillarboxed"
        )
        where = {"letterboxed": "above and below", "pillarboxed": "left and right"}
        yield Cause(
            id=kind,
            traits=traits,
            strength=0.95,
            values=_sides(framing.bars),
            why=f"Bars were drawn into the picture {where.get(kind, 'on all sides')}, so the "
            "picture itself is smaller.",
            remedy="re-export",
            cure="Export at the master's own raster and pixel aspect; let the player add bars.",
        )
    if framing.has_cut:
        yield Cause(
            id="cropped",
            traits=(*traits, *enlarged),
            strength=0.95,
            values=_sides(framing.cut),
            why=f"Picture was cut off, in samples of the master: {_sides_words(framing.cut)}.",
            remedy="re-export",
            cure="Set scale and position of the picture as promised (for a whole picture, fit "
            "instead of fill), or promise this cut in the framing.",
        )


def _overlay(overlays: tuple[Overlay, ...], broken: Set[str]) -> Cause:
    first = overlays[0]
    names = ("x", "y", "width", "height")
    return Cause(
        id="overlay-added",
        traits=explained(broken, "framing", "tone", "gamut", "detail"),
        strength=0.9,
        values={"area": {name: getattr(first, name) for name in names}},
        why=f"Something was laid over the picture, best seen at frame {first.frame}: burnt-in "
        "text, a mark, or subtitles.",
        remedy="re-export",
        cure="Switch off burnt-in timecode, marks and subtitles at export, and export again.",
    )


def _astray(astray: tuple[Astray, ...], broken: Set[str]) -> Cause:
    first = astray[0]
    return Cause(
        id="shifted",
        traits=explained(broken, "framing", "frames", "tone", "transfer", "gamut", "detail"),
        strength=0.85,
        values={"dx": round(first.dx), "dy": round(first.dy), "at": first.export_frame},
        why="In some shots the picture was moved in its frame against the others, first seen at "
        f"frame {first.export_frame}.",
        remedy="re-export",
        cure="Set the position of each shot as the settings sheet lists it, and export again.",
    )


def _shifted(shift: tuple[int, int], traits: tuple[str, ...]) -> Cause:
    dx, dy = shift
    parts = [
        f"{abs(by)} samples {words[by > 0]}"
        for by, words in ((dx, ("left", "right")), (dy, ("up", "down")))
        if by
    ]
    return Cause(
        id="shifted",
        traits=traits,
        strength=0.95,
        values={"dx": dx, "dy": dy},
        why=f"The picture was moved {' and '.join(parts)} in its frame: one edge is cut off, and "
        "something else stands at the other.",
        remedy="re-export",
        cure="Set the position in the export's transform back to the middle, and export again.",
    )


def _explain_size(evidence: Evidence) -> Iterator[Cause]:
    promised = evidence.promise.value("raster")
    survey = evidence.survey
    if survey is None or not isinstance(promised, tuple):
        return
    width, height = survey.export_raster
    if width >= promised[0] and height >= promised[1]:
        return
    yield Cause(
        id="downscaled",
        traits=("raster",),
        strength=0.97,
        values={"from": promised, "to": (width, height)},
        why=f"The export has {width}×{height} samples where "
        f"{promised[0]}×{promised[1]} were promised.",
        remedy="re-export",
        cure=f"Set the export's raster to {promised[0]}×{promised[1]} and export again.",
    )
