"""Where the promised picture lies in the export: shown ratio, bars and cuts."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..declared import Declaration
from ..measured import Bars, Overlay, Registration
from ..promised import TWO_EYES
from . import tolerances
from .evidence import Evidence, specified
from .pairing import is_surely_paired

SIDES = ("top", "bottom", "left", "right")
Sides = dict[str, int]


def aspect_of(declaration: Declaration) -> tuple[int, int]:
    """Return the pixel aspect that players use: wrapper, else stream, else square."""
    for witness in (declaration.wrapper, declaration.stream):
        said = specified(witness, "pixel_aspect")
        if isinstance(said, tuple):
            return int(said[0]), int(said[1])
    return 1, 1


def _extent(place: Registration) -> tuple[float, float]:
    """Return how wide and high the upright master is drawn, in export samples."""
    size = (place.width, place.height)
    return size if place.turn % 180 == 0 else (size[1], size[0])


def ratios_by_witness(evidence: Evidence) -> dict[str, float]:
    """Return witness → shown width ÷ promised width for players that obey it alone.

    Only witnesses that state a pixel aspect; none where the picture is unregistered.
    """
    ratio, obeyed = shown_ratio(evidence), aspect_of(evidence.export)
    if ratio is None:
        return {}
    said = zip(("wrapper", "stream"), evidence.stated("pixel_aspect"), strict=True)
    return {
        name: ratio * (aspect[0] / aspect[1]) / (obeyed[0] / obeyed[1])
        for name, aspect in said
        if isinstance(aspect, tuple)
    }


def shown_ratio(evidence: Evidence) -> float | None:
    """Return shown width ÷ promised width of the picture itself; None where unregistered.

    Shown shape = registered shape × stated pixel aspect, against the master's own. Eyes that are
    promised at half size, or whole from half ones, are shown so much narrower or wider.
    """
    survey = evidence.survey
    if survey is None or survey.registration is None:
        return None
    width, height = _extent(survey.registration)
    h, v = aspect_of(evidence.export)
    master_h, master_v = aspect_of(evidence.master)
    master_width, master_height = survey.master_raster
    shown = width * h / v / height
    mastered = master_width * master_h / master_v / master_height
    return shown / (mastered * promised_squeeze(evidence))


def promised_squeeze(evidence: Evidence) -> float:
    """Return by how much wider both eyes are promised than they are mastered: 1, or 2, or a half.

    By the promised raster, once the master is packed as promised.
    """
    survey, raster = evidence.survey, evidence.promise.value("raster")
    if evidence.promise.value("stereo") not in TWO_EYES or not isinstance(raster, tuple):
        return 1.0
    aspect = evidence.promise.value("pixel_aspect")
    h, v = aspect if isinstance(aspect, tuple) else (1, 1)
    own_h, own_v = aspect_of(evidence.master)
    width, height = survey.master_raster if survey else (1, 1)
    squeeze = raster[0] * h / v / raster[1] / (width * own_h / own_v / height)
    return next((w for w in (0.5, 2.0) if abs(squeeze / w - 1) < tolerances.STORED_SQUEEZE), 1.0)


def stored_scales(evidence: Evidence) -> tuple[float, float] | None:
    """Return export samples per master sample, across and down."""
    survey = evidence.survey
    if survey is None or survey.registration is None:
        return None
    width, height = _extent(survey.registration)
    return width / survey.master_raster[0], height / survey.master_raster[1]


def stored_aspect(evidence: Evidence) -> tuple[int, int] | None:
    """Return the pixel aspect that the stored picture needs to be shown right.

    The master's own where the picture is stored as the master is, 1:1 where it was widened to
    square samples; None where it is neither.
    """
    scales = stored_scales(evidence)
    if scales is None:
        return None
    own = aspect_of(evidence.master)
    squeeze = scales[0] / scales[1]
    if abs(squeeze - 1) <= tolerances.STORED_SQUEEZE:
        return own
    widened = abs(squeeze / (own[0] / own[1]) - 1) <= tolerances.STORED_SQUEEZE
    return (1, 1) if widened else None


@dataclass(frozen=True, slots=True)
class Framing:
    """Bars round the picture in export samples, and what is cut off in master samples.

    shift: right and down, in export samples, where the picture kept its size and only moved: what
    is bare on one side is cut off on the other. bare: sides whose promised bars are missing.
    """

    bars: Sides
    cut: Sides
    largest_share: float
    shift: tuple[int, int] | None = None
    bare: tuple[str, ...] = ()

    @property
    def has_bars(self) -> bool:
        """Return whether anything was put round the picture."""
        return any(self.bars.values())

    @property
    def has_cut(self) -> bool:
        """Return whether anything was cut off."""
        return any(self.cut.values())

    @property
    def is_whole(self) -> bool:
        """Return whether neither, and no promised bar is missing."""
        return not self.has_bars and not self.has_cut and not self.bare


def shear_of(evidence: Evidence) -> float:
    """Return by how many samples the last row lies further right than the first; 0 where by no more
    than a picture may be off, or where another moment of it may be shown."""
    survey = evidence.survey
    if survey is None or not is_surely_paired(evidence):
        return 0.0
    if abs(survey.sheared) <= tolerances.FRAMING_SHARE * survey.export_raster[0]:
        return 0.0
    return survey.sheared


def overlays_of(evidence: Evidence) -> tuple[Overlay, ...]:
    """Return what lies over the picture; what differs in one that was bent lies not over it.

    Nor does what one of many ways to fold HDR made of some colours.
    """
    survey = evidence.survey
    place = survey.registration if survey else None
    if survey is None or (survey.fold is not None and not survey.fold.promised):
        return ()
    if place is None or place.likeness < tolerances.IN_PLACE:
        return ()
    meant = tuple(_promised_overlays(evidence))
    margin = tolerances.OVERLAY_MARGIN * min(survey.export_raster)
    return tuple(
        one for one in survey.overlays if not any(_lies_in(one, box, margin) for box in meant)
    )


def _promised_overlays(evidence: Evidence) -> Iterator[tuple[float, ...]]:
    """Yield the areas that something is promised to lie over, x, y, width, height."""
    framing = evidence.promise.value("framing")
    boxes = framing.get("overlays", ()) if isinstance(framing, Mapping) else ()
    for box in boxes if isinstance(boxes, tuple) else (boxes,):
        if isinstance(box, Mapping):
            yield tuple(float(str(box[key])) for key in ("x", "y", "width", "height"))


def _lies_in(one: Overlay, box: tuple[float, ...], margin: float) -> bool:
    """Return whether an overlay lies in a promised area, found by cells as it is."""
    x, y, width, height = box
    across = x - margin <= one.x and one.x + one.width <= x + width + margin
    return across and y - margin <= one.y and one.y + one.height <= y + height + margin


def promised_crop(evidence: Evidence) -> tuple[float, float, float, float]:
    """Return the promised part of the master as x, y, width, height in its samples.

    An explicit framing; or a centre cut where another shape is promised at the same pixel
    aspect; or the whole.
    """
    assert evidence.survey is not None  # noqa: S101  (called for registered pairs)
    width, height = evidence.survey.master_raster
    framing = evidence.promise.value("framing")
    crop = framing.get("crop") if isinstance(framing, Mapping) else None
    if isinstance(crop, tuple) and len(crop) == 4:
        return float(crop[0]), float(crop[1]), float(crop[2]), float(crop[3])
    raster = evidence.promise.value("raster")
    aspect = evidence.promise.value("pixel_aspect") or (1, 1)
    uncut = promised_squeeze(evidence) == 1
    if uncut and isinstance(raster, tuple) and aspect == aspect_of(evidence.master):
        goal = raster[0] / raster[1]
        if goal < width / height * (1 - tolerances.FRAMING_SHARE):
            return (width - height * goal) / 2, 0.0, height * goal, float(height)
        if goal > width / height * (1 + tolerances.FRAMING_SHARE):
            return 0.0, (height - width / goal) / 2, float(width), width / goal
    return 0.0, 0.0, float(width), float(height)


def promised_bars(evidence: Evidence) -> Sides:
    """Return the bars that are part of the promise, in export samples."""
    framing = evidence.promise.value("framing")
    bars = framing.get("bars") if isinstance(framing, Mapping) else None
    if not isinstance(bars, Mapping):
        return dict.fromkeys(SIDES, 0)
    counts = {side: bars.get(side) for side in SIDES}
    return {side: n if isinstance(n, int) else 0 for side, n in counts.items()}


def framing_of(evidence: Evidence) -> Framing | None:
    """Return bars and cuts against the promised framing; None where unregistered."""
    survey = evidence.survey
    if survey is None or survey.registration is None:
        return None
    place = survey.registration
    if place.turn or place.mirrored:
        return Framing(dict.fromkeys(SIDES, 0), dict.fromkeys(SIDES, 0), 0.0)
    x, y, wide, high = promised_crop(evidence)
    (master_w, master_h), (export_w, export_h) = survey.master_raster, survey.export_raster
    scale_x, scale_y = place.width / master_w, place.height / master_h
    # Free room between the promised part and each edge of the export; negative = cut off.
    room = {
        "top": place.top + y * scale_y,
        "bottom": export_h - (place.top + (y + high) * scale_y),
        "left": place.left + x * scale_x,
        "right": export_w - (place.left + (x + wide) * scale_x),
    }
    hidden = _hidden_bars(survey.master_bars, survey.export_bars, scale_x, scale_y)
    wanted = promised_bars(evidence)
    # Beyond a promised cut more of the picture may show: only what holds none is a bar.
    empty = {
        "top": place.top,
        "bottom": export_h - (place.top + place.height),
        "left": place.left,
        "right": export_w - (place.left + place.width),
    }
    sides = {"top": export_h, "bottom": export_h, "left": export_w, "right": export_w}
    scales = {"top": scale_y, "bottom": scale_y, "left": scale_x, "right": scale_x}
    bars, cut, bare, largest = {}, {}, [], 0.0
    for side in SIDES:
        limit = max(tolerances.FRAMING_SHARE * sides[side], tolerances.FRAMING_SAMPLES)
        excess = max(min(room[side], empty[side]), hidden[side]) - wanted[side]
        largest = max(largest, abs(room[side] - wanted[side]) / sides[side], excess / sides[side])
        bars[side] = round(excess) if excess > limit else 0
        cut[side] = round(-room[side] / scales[side]) if -room[side] > limit else 0
        if wanted[side] and excess < -limit:
            bare.append(side)
    # Of a promised cut, other parts of the picture come into view instead: that is another cut.
    is_whole = (wide, high) == (master_w, master_h)
    net = {side: room[side] - wanted[side] for side in SIDES}
    shift = _shift(net, sides) if is_whole else None
    return Framing(bars, cut, largest, shift, tuple(bare))


def _shift(room: Mapping[str, float], sides: Mapping[str, int]) -> tuple[int, int] | None:
    """Return how far the picture moved, where it did nothing else."""
    moved = []
    for before, after in (("left", "right"), ("top", "bottom")):
        limit = max(tolerances.FRAMING_SHARE * sides[before], tolerances.FRAMING_SAMPLES)
        if abs(room[before] + room[after]) > limit:
            return None  # it grew or shrank
        by = (room[before] - room[after]) / 2
        moved.append(round(by) if abs(by) > limit else 0)
    return (moved[0], moved[1]) if any(moved) else None


def _hidden_bars(
    master: Bars | None, export: Bars | None, scale_x: float, scale_y: float
) -> dict[str, float]:
    """Return bars of the export beyond the master's own: drawn over an unmoved picture."""
    if export is None:
        return dict.fromkeys(SIDES, 0.0)
    own = master or Bars()
    return {
        side: max(
            getattr(export, side)
            - getattr(own, side) * (scale_y if side in ("top", "bottom") else scale_x),
            0.0,
        )
        for side in SIDES
    }
