"""A track's Video element, made to say what is wished. Source: RFC 9559 section 5.1.4.1.28."""

import struct
from collections.abc import Mapping
from dataclasses import replace
from math import gcd

from ...declared import TraitValue
from ...declared.wrappers.matroska import elements as ids
from ..light import light_fields
from ..wishes import COLOUR_CODES, HALF_BOUNDS, SPHERE, Wishes
from .items import Item, unsigned

CODES = {"primaries": ids.PRIMARIES, "transfer": ids.TRANSFER, "matrix": ids.MATRIX}
RANGES = {"limited": 1, "full": 2}
SITINGS = {site: pair for pair, site in ids.SITINGS.items()}
STEREO = {"mono": 0, "left-right": 1, "bottom-top": 2, "top-bottom": 3, "right-left": 11}
STEREO |= {"frame-sequential": 13}
KINDS = {
    "rectilinear": 0,
    "equirectangular": 1,
    "half-equirectangular": 1,
    "cubemap": 2,
}
WHOLE, HALF = "equirectangular", "half-equirectangular"
SIDES = ("top", "bottom", "left", "right")
WOVEN = {"top-first": 9, "bottom-first": 14}
UNDETERMINED = 2
MOST_BOUND = 0xFFFFFFFF


def said_in_video(video: Item, wishes: Wishes) -> Item:
    """Return a Video element that says what is wished, as far as its elements can."""
    for say in (_colour, _shape, _scan, _stereo, _sphere):
        video = say(video, wishes)
    return video


def _number(wanted: int, value: float) -> Item:
    return Item(wanted, body=struct.pack(">d", value))


def _colour(video: Item, wishes: Wishes) -> Item:
    touched = {*COLOUR_CODES, "range", "mastering_display", "content_light", "chroma_location"}
    if not wishes.keys() & touched:
        return video
    colour = video.first(ids.COLOUR) or Item(ids.COLOUR, children=())
    for trait, wanted in CODES.items():
        if trait in wishes:
            value = wishes[trait]
            made = unsigned(wanted, value) if isinstance(value, int) else None
            colour = colour.put(made) if made else colour.without(wanted)
    if "range" in wishes:
        code = RANGES.get(str(wishes["range"]))
        colour = colour.put(unsigned(ids.RANGE, code)) if code else colour.without(ids.RANGE)
    colour = _light(_location(colour, wishes), wishes)
    return video.put(colour) if colour.children else video.without(ids.COLOUR)


def _location(colour: Item, wishes: Wishes) -> Item:
    if "chroma_location" not in wishes:
        return colour
    value = wishes["chroma_location"]
    if value is None:
        return colour.without(ids.SITING_X, ids.SITING_Y)
    pair = SITINGS.get(value) if isinstance(value, int) else None
    if pair is None:
        return colour
    for wanted, code in zip((ids.SITING_X, ids.SITING_Y), pair, strict=True):
        colour = colour.put(unsigned(wanted, code or 0))
    return colour


def _light(colour: Item, wishes: Wishes) -> Item:
    if "content_light" in wishes:
        value = wishes["content_light"]
        colour = colour.without(ids.MAX_CLL, ids.MAX_FALL)
        if isinstance(value, Mapping):
            fields = light_fields(value)
            colour = colour.put(unsigned(ids.MAX_CLL, fields["max_cll"]))
            colour = colour.put(unsigned(ids.MAX_FALL, fields["max_fall"]))
    if "mastering_display" in wishes:
        value = wishes["mastering_display"]
        colour = colour.without(ids.MASTERING)
        if isinstance(value, Mapping):
            colour = colour.put(_mastering(value))
    return colour


def _mastering(value: Mapping[str, TraitValue]) -> Item:
    numbers: list[Item] = []
    for colour, wanted in ids.MASTERING_XY.items():
        place = value.get(colour)
        xy = place if isinstance(place, tuple) and len(place) == 2 else (0.0, 0.0)
        numbers += [_number(i, float(part)) for i, part in zip(wanted, xy, strict=True)]
    for name, i in ids.MASTERING_LIGHT.items():
        light = value.get(name)
        numbers.append(_number(i, float(light) if isinstance(light, int | float) else 0.0))
    return Item(ids.MASTERING, children=tuple(numbers))


def _shape(video: Item, wishes: Wishes) -> Item:
    """Say the displayed size: in samples where these can say it exactly, else as a ratio."""
    for trait in ("pixel_aspect", "display_size"):
        if trait not in wishes:
            continue
        value = wishes[trait]
        video = video.without(ids.DISPLAY_WIDTH, ids.DISPLAY_HEIGHT, ids.DISPLAY_UNIT)
        if not isinstance(value, tuple):
            continue
        first, second = int(value[0]), int(value[1])
        if trait == "display_size":
            video = _shown(video, first, second, ids.SAMPLES)
            continue
        width, height = _raster(video)
        if width * first % second == 0:
            video = _shown(video, width * first // second, height, ids.SAMPLES)
        else:
            h, v = width * first, height * second
            video = _shown(video, h // gcd(h, v), v // gcd(h, v), ids.ASPECT)
    return video


def _shown(video: Item, width: int, height: int, unit: int) -> Item:
    for wanted, value in ((ids.DISPLAY_WIDTH, width), (ids.DISPLAY_HEIGHT, height)):
        video = video.put(unsigned(wanted, value))
    return video.put(unsigned(ids.DISPLAY_UNIT, unit)) if unit else video


def _raster(video: Item) -> tuple[int, int]:
    def whole(wanted: int) -> int:
        found = video.first(wanted)
        return found.unsigned() if found else 0

    width = whole(ids.PIXEL_WIDTH) - whole(ids.CROP_LEFT) - whole(ids.CROP_RIGHT)
    return width, whole(ids.PIXEL_HEIGHT) - whole(ids.CROP_TOP) - whole(ids.CROP_BOTTOM)


def _scan(video: Item, wishes: Wishes) -> Item:
    if "scan" not in wishes:
        return video
    value = wishes["scan"]
    if value is None:
        return video.without(ids.FLAG_INTERLACED, ids.FIELD_ORDER)
    if value == "progressive":
        video = video.without(ids.FIELD_ORDER)
        return video.put(unsigned(ids.FLAG_INTERLACED, ids.PROGRESSIVE_FLAG))
    video = video.put(unsigned(ids.FLAG_INTERLACED, ids.INTERLACED_FLAG))
    return video.put(unsigned(ids.FIELD_ORDER, WOVEN.get(str(value), UNDETERMINED)))


def _stereo(video: Item, wishes: Wishes) -> Item:
    if "stereo" not in wishes:
        return video
    value = wishes["stereo"]
    if value is None:
        return video.without(ids.STEREO_MODE)
    mode = STEREO.get(str(value))
    return video if mode is None else video.put(unsigned(ids.STEREO_MODE, mode))


def _sphere(video: Item, wishes: Wishes) -> Item:
    if not wishes.keys() & SPHERE:
        return video
    old = video.first(ids.PROJECTION)
    if "projection" in wishes and wishes["projection"] is None:
        return video.without(ids.PROJECTION)
    wished = wishes.get("projection")
    if (old is None and wished is None) or (wished is not None and wished not in KINDS):
        return video
    made = old or Item(ids.PROJECTION, children=())
    if wished is not None:
        made = made.put(unsigned(ids.PROJECTION_TYPE, KINDS[str(wished)]))
    return video.put(_pose(_private(made, wishes), wishes))


def _private(projection: Item, wishes: Wishes) -> Item:
    """Return a projection whose private data is as wished: bounds of a sphere, or a cube's."""
    kind = projection.first(ids.PROJECTION_TYPE)
    number = kind.unsigned() if kind else 0
    old = projection.first(ids.PROJECTION_PRIVATE)
    if number == KINDS["cubemap"]:
        if old is not None and len(old.body) == 12:
            return projection
        return projection.put(Item(ids.PROJECTION_PRIVATE, body=bytes(12)))
    if number != KINDS[WHOLE]:
        return projection if number else projection.without(ids.PROJECTION_PRIVATE)
    body = old.body if old is not None and len(old.body) == 20 else bytes(20)
    bounds = dict(zip(SIDES, struct.unpack(">4I", body[4:]), strict=True))
    quarter = round(HALF_BOUNDS * 2**32)
    wished = wishes.get("projection")
    is_half = (bounds["left"], bounds["right"]) == (quarter, quarter)
    if "projection_bounds" in wishes:
        told = wishes["projection_bounds"]
        shares = told if isinstance(told, Mapping) else {}
        bounds = {side: _bound(shares.get(side)) for side in SIDES}
    elif wished == WHOLE and is_half:
        bounds |= {"left": 0, "right": 0}
    if wished == HALF:
        bounds |= {"left": quarter, "right": quarter}
    made = body[:4] + struct.pack(">4I", *(bounds[side] for side in SIDES))
    if old is None and not any(bounds.values()):
        made = bytes(20)
    return projection.put(Item(ids.PROJECTION_PRIVATE, body=made))


def _bound(value: TraitValue | None) -> int:
    share = float(value) if isinstance(value, int | float) else 0.0
    return min(round(share * 2**32), MOST_BOUND)


def _pose(projection: Item, wishes: Wishes) -> Item:
    if "pose" not in wishes:
        return projection
    pose = wishes["pose"]
    for axis, wanted in ids.POSE.items():
        value = pose.get(axis, 0.0) if isinstance(pose, Mapping) else None
        if value is None:
            projection = projection.without(wanted)
        elif isinstance(value, int | float):
            projection = projection.put(_number(wanted, float(value)))
    return replace(projection)
