"""What a track's Video element says of the picture."""

import struct
from collections.abc import Iterator
from math import gcd

from ...model import Notice, Said, TraitValue
from ...projection import projection_traits
from ...sampling import SUBSAMPLINGS
from ...window import ShortReadError
from . import elements as ids
from .ebml import Element


def read_video(video: Element, path: str) -> tuple[dict[str, Said], list[Notice]]:
    """Return the traits that a Video element states, each with its place."""
    said: dict[str, Said] = {}
    notices: list[Notice] = []
    inside = {item.id: item for item in video.children()}
    parts: tuple[tuple[str, Iterator[tuple[str, TraitValue] | Notice]], ...] = (
        ("Video", _geometry(inside)),
        ("Video", _scan(inside)),
        ("Video", _stereo(inside)),
        ("Video/Colour", _colour(inside.get(ids.COLOUR))),
        ("Video/Projection", _projection(inside.get(ids.PROJECTION))),
    )
    for name, stated in parts:
        where = f"{path}/{name}"
        try:
            for item in stated:
                if isinstance(item, Notice):
                    notices.append(Notice(item.code, item.text, where))
                else:
                    said.setdefault(item[0], Said(value=item[1], where=where))
        except ShortReadError as error:
            notices.append(Notice("short-element", f"An element is cut short: {error}.", where))
    return said, notices


def _whole(inside: dict[int, Element], wanted: int) -> int | None:
    found = inside.get(wanted)
    return found.unsigned() if found is not None else None


def _geometry(inside: dict[int, Element]) -> Iterator[tuple[str, TraitValue] | Notice]:
    """State raster (less crop), display size and pixel aspect."""
    width, height = _whole(inside, ids.PIXEL_WIDTH), _whole(inside, ids.PIXEL_HEIGHT)
    if not width or not height:
        yield Notice("no-raster", "The track states no picture size.")
        return
    width -= (_whole(inside, ids.CROP_LEFT) or 0) + (_whole(inside, ids.CROP_RIGHT) or 0)
    height -= (_whole(inside, ids.CROP_TOP) or 0) + (_whole(inside, ids.CROP_BOTTOM) or 0)
    if width <= 0 or height <= 0:
        yield Notice("bad-crop", "The crop leaves nothing of the picture.")
        return
    yield "raster", (width, height)
    shown = _whole(inside, ids.DISPLAY_WIDTH), _whole(inside, ids.DISPLAY_HEIGHT)
    unit = _whole(inside, ids.DISPLAY_UNIT) or ids.SAMPLES
    if not shown[0] or not shown[1] or unit not in (ids.SAMPLES, ids.ASPECT):
        return
    if unit == ids.SAMPLES:
        yield "display_size", (shown[0], shown[1])
    h, v = shown[0] * height, shown[1] * width
    yield "pixel_aspect", (h // gcd(h, v), v // gcd(h, v))


def _scan(inside: dict[int, Element]) -> Iterator[tuple[str, TraitValue] | Notice]:
    flag, order = _whole(inside, ids.FLAG_INTERLACED), _whole(inside, ids.FIELD_ORDER)
    if flag == ids.PROGRESSIVE_FLAG:
        yield "scan", "progressive"
    elif order in ids.FIELD_ORDERS:
        yield "scan", ids.FIELD_ORDERS[order]
    elif flag == ids.INTERLACED_FLAG:
        yield "scan", "interlaced"


def _stereo(inside: dict[int, Element]) -> Iterator[tuple[str, TraitValue] | Notice]:
    mode = _whole(inside, ids.STEREO_MODE)
    if mode is not None:
        yield "stereo", ids.STEREO_MODES.get(mode, "other")


def _colour(colour: Element | None) -> Iterator[tuple[str, TraitValue] | Notice]:
    if colour is None:
        return
    inside = {item.id: item for item in colour.children()}
    for trait, wanted in (
        ("primaries", ids.PRIMARIES),
        ("transfer", ids.TRANSFER),
        ("matrix", ids.MATRIX),
    ):
        code = _whole(inside, wanted)
        if code is not None:
            yield trait, code
    yield from _sampling(inside)
    light = {
        key: _whole(inside, wanted)
        for key, wanted in (("max_cll", ids.MAX_CLL), ("max_fall", ids.MAX_FALL))
    }
    if any(value is not None for value in light.values()):
        yield "content_light", {key: value or 0 for key, value in light.items()}
    yield from _mastering(inside.get(ids.MASTERING))


def _sampling(inside: dict[int, Element]) -> Iterator[tuple[str, TraitValue]]:
    """State range, depth, chroma sampling and chroma location."""
    full = ids.RANGES.get(_whole(inside, ids.RANGE) or 0)
    if full:
        yield "range", full
    bits = _whole(inside, ids.BITS)
    if bits:
        yield "bit_depth", bits
    pair = (_whole(inside, ids.SUBSAMPLING_X), _whole(inside, ids.SUBSAMPLING_Y))
    if pair in SUBSAMPLINGS:
        yield "chroma", SUBSAMPLINGS[pair]
    site = (_whole(inside, ids.SITING_X), _whole(inside, ids.SITING_Y))
    if site in ids.SITINGS:
        yield "chroma_location", ids.SITINGS[site]


def _mastering(mastering: Element | None) -> Iterator[tuple[str, TraitValue]]:
    if mastering is None:
        return
    inside = {item.id: item.number() for item in mastering.children()}
    wanted = {xy for pair in ids.MASTERING_XY.values() for xy in pair}
    if not (wanted | set(ids.MASTERING_LIGHT.values())) <= set(inside):
        return  # a display stated in part says nothing that could be compared
    display: dict[str, TraitValue] = {
        name: (round(inside[x], 6), round(inside[y], 6))
        for name, (x, y) in ids.MASTERING_XY.items()
    }
    light = {name: round(inside[i], 4) for name, i in ids.MASTERING_LIGHT.items()}
    yield "mastering_display", display | light


def _projection(projection: Element | None) -> Iterator[tuple[str, TraitValue] | Notice]:
    """State projection, bounds (the private data is an `equi` box's) and pose."""
    if projection is None:
        return
    inside = {item.id: item for item in projection.children()}
    kind = ids.PROJECTIONS.get(_whole(inside, ids.PROJECTION_TYPE) or 0)
    if kind is None:
        yield Notice("unknown-projection", "A projection type that is not defined.")
        return
    private = inside[ids.PROJECTION_PRIVATE].bytes(20) if ids.PROJECTION_PRIVATE in inside else b""
    bounds = None
    if kind == "equirectangular" and len(private) >= 20:
        sides = struct.unpack(">4I", private[4:20])
        bounds = {
            name: value / 2**32
            for name, value in zip(("top", "bottom", "left", "right"), sides, strict=True)
        }
    yield from projection_traits(kind, bounds)
    pose = {axis: inside[i].number() if i in inside else 0.0 for axis, i in ids.POSE.items()}
    if any(pose.values()):
        yield "pose", pose
