"""The encoder's settings for one span: from an order, in the libraries' own words."""

from collections.abc import Mapping
from typing import Any

from ...colour.codepoints import HDR_TRANSFERS
from .order import Order

CHROMATICITY_UNITS, LIGHT_UNITS = 50_000, 10_000
"""Chromaticities by 1 ÷ 50 000, light by 1 ÷ 10 000 cd/m²: ITU-T H.265 D.3.28."""


def options_of(order: Order, *, bit_rate: float | None = None, look: str = "") -> dict[str, str]:
    """Return the encoder's options.

    bit_rate: bits a second of this span, where the recipe asks for a rate. look: "1:FILE" for a
    first look at a span, whose findings go to the file, "2:FILE" for the second.
    """
    encoder, coding = order.encoder, order.recipe.coding
    made = encoder.options(order.profile, coding.preset)
    if encoder.every_frame_whole:
        return made
    made |= {"g": str(order.group), **_rate(order, bit_rate)}
    own = _own_words(order, look)
    name = OWN_WORDS.get(encoder.library)
    return {**made, name: ":".join(own)} if own and name else made


OWN_WORDS = {"libx264": "x264-params", "libx265": "x265-params", "libsvtav1": "svtav1-params"}
"""Encoder → the option that takes its own words."""


def _rate(order: Order, bit_rate: float | None) -> dict[str, str]:
    coding, quality = order.recipe.coding, order.encoder.quality
    if bit_rate is not None:
        return {"b": str(round(bit_rate))}
    if quality is None:
        return {}
    number = coding.crf if coding.crf is not None else quality.usual
    zero = {"b": "0"} if order.encoder.library in ("libvpx-vp9", "libsvtav1") else {}
    return {"crf": f"{number:g}", **zero}


def _own_words(order: Order, look: str) -> list[str]:
    library = order.encoder.library
    if library == "libx264":
        # stitchable: headers follow from settings alone, so that spans can be joined.
        return ["threads=1", "open-gop=0", "stitchable=1", *_passes(look), *_light(order, library)]
    if library == "libx265":
        words = ["log-level=error", "pools=1", "frame-threads=1", "open-gop=0", "repeat-headers=0"]
        hdr = order.way.goal.coding.transfer in HDR_TRANSFERS
        return [*words, *(["hdr10=1"] if hdr else []), *_passes(look), *_light(order, library)]
    if library == "libsvtav1":
        return ["lp=1", *_light(order, library)]
    return []


def _passes(look: str) -> list[str]:
    number, _, path = look.partition(":")
    escaped = "".join(f"\\{sign}" if sign in "\\':=" else sign for sign in path)
    return [f"pass={number}", f"stats={escaped}"] if number else []


def _light(order: Order, library: str) -> list[str]:
    """Return mastering display and light level, as this encoder wants them written."""
    said: tuple[Any, Any] = (
        order.promise.value("mastering_display"),
        order.promise.value("content_light"),
    )
    display, level = said
    made = []
    if isinstance(display, Mapping):
        by = (1.0, 1.0) if library == "libsvtav1" else (CHROMATICITY_UNITS, LIGHT_UNITS)
        points = "".join(
            f"{sign}({_number(display[key][0] * by[0])},{_number(display[key][1] * by[0])})"
            for sign, key in (("G", "green"), ("B", "blue"), ("R", "red"), ("WP", "white"))
        )
        light = f"L({_number(display['max'] * by[1])},{_number(display['min'] * by[1])})"
        name = "mastering-display" if library != "libx265" else "master-display"
        made.append(f"{name}={points}{light}")
    if isinstance(level, Mapping):
        name = {"libx265": "max-cll", "libx264": "cll"}.get(library, "content-light")
        made.append(f"{name}={_whole(level, 'max_cll')},{_whole(level, 'max_fall')}")
    return made


def _whole(level: Mapping[str, Any], key: str) -> int:
    return round(float(level.get(key, 0)))


def _number(value: float) -> str:
    return f"{value:.6f}".rstrip("0").rstrip(".") if value % 1 else f"{value:.0f}"
