"""The picture's sample entry: what its child boxes say of the picture.

Each reader takes a box and gives the traits it states; `ENTRY_READERS` is the list.
"""

from collections.abc import Callable, Iterator
from math import gcd
from typing import TypeAlias

from ...layout import FieldError
from ...model import Notice, Said, TraitValue
from ...st2086 import (
    CONTENT_LIGHT,
    FIXED_POINT_DISPLAY,
    MASTERING_DISPLAY,
    content_light,
    fixed_point_display,
    mastering_display,
)
from ...window import ShortReadError
from . import layouts
from .boxes import Box
from .spherical import read_st3d, read_sv3d
from .vexu import read_vexu

Stated: TypeAlias = Iterator[tuple[str, TraitValue] | tuple[str, TraitValue, TraitValue] | Notice]
"""A trait and its value; and its other value, where two published texts read the field apart."""

# 9 and 14 are glossed the other way in the QuickTime text; files in the wild and RFC 9559
# agree on: 1 and 9 top field first, 6 and 14 bottom field first.
FIELD_ORDERS = {0: "interlaced", 1: "top-first", 6: "bottom-first"}
WOVEN_ORDERS = {9: ("bottom-first", "top-first"), 14: ("top-first", "bottom-first")}
"""The field that is shown first by the QuickTime File Format: the one that is not stored first; and
by RFC 9559, as the FFmpeg libraries write it."""


def read_colr(box: Box) -> Stated:
    """State primaries, transfer, matrix and, for nclx, the range."""
    data = box.bytes(32)
    kind = layouts.COLR_TYPE.read(data)["colour_type"].to_bytes(4, "big")
    if kind in (b"prof", b"rICC"):
        yield Notice("icc-profile", "An ICC profile stands here; it is not interpreted.", box.path)
        return
    if kind not in (b"nclx", b"nclc"):
        text = f"Colour information of the unknown type {kind.decode('latin-1')!r}."
        yield Notice("unknown-colr", text, box.path)
        return
    layout = layouts.COLR_NCLX if kind == b"nclx" else layouts.COLR_NCLC
    stated = layout.read(data)
    for trait in ("primaries", "transfer", "matrix"):
        yield trait, stated[trait]
    if kind == b"nclx":
        yield "range", "full" if stated["full_range"] else "limited"


def read_pasp(box: Box) -> Stated:
    """State the pixel aspect in lowest terms."""
    stated = layouts.PASP.read(box.bytes(8))
    h, v = stated["h_spacing"], stated["v_spacing"]
    if h == 0 or v == 0:
        yield Notice("bad-pasp", f"A pixel aspect of {h}:{v} has no meaning.", box.path)
        return
    divisor = gcd(h, v)
    yield "pixel_aspect", (h // divisor, v // divisor)


def read_clap(box: Box) -> Stated:
    """State the clean aperture as four ratios."""
    s = layouts.CLAP.read(box.bytes(32))
    names = ("width", "height", "h_offset", "v_offset")
    if any(s[f"{name}_d"] == 0 for name in names):
        yield Notice("bad-clap", "A clean aperture with a zero denominator.", box.path)
        return
    yield "clean_aperture", {name: (s[f"{name}_n"], s[f"{name}_d"]) for name in names}


def read_fiel(box: Box) -> Stated:
    """State whether the picture is progressive, or which field comes first."""
    stated = layouts.FIEL.read(box.bytes(2))
    if stated["fields"] == 1:
        yield "scan", "progressive"
    elif stated["detail"] in WOVEN_ORDERS and stated["fields"] == 2:
        yield "scan", *WOVEN_ORDERS[stated["detail"]]
    elif stated["fields"] == 2:
        yield "scan", FIELD_ORDERS.get(stated["detail"], "interlaced")


def read_mdcv(box: Box) -> Stated:
    """State the mastering display."""
    yield from mastering_display(MASTERING_DISPLAY.read(box.bytes(24)))


def read_clli(box: Box) -> Stated:
    """State MaxCLL and MaxFALL."""
    yield from content_light(CONTENT_LIGHT.read(box.bytes(4)))


def read_smdm(box: Box) -> Stated:
    """State the mastering display of a VP9 track."""
    yield from fixed_point_display(
        FIXED_POINT_DISPLAY.read(box.bytes(64), layouts.FULL_BOX.size_bytes)
    )


def read_coll(box: Box) -> Stated:
    """State MaxCLL and MaxFALL of a VP9 track."""
    yield from content_light(CONTENT_LIGHT.read(box.bytes(8), layouts.FULL_BOX.size_bytes))


def read_dynamic_hdr(box: Box) -> Stated:
    """State that scene by scene metadata of the kind of ST 2094-10 goes with the picture."""
    kinds: TraitValue = ("st2094-10",)  # type: ignore[assignment]  # a list of words
    if box.body.size:
        yield "dynamic_hdr", kinds


ENTRY_READERS: dict[str, Callable[[Box], Stated]] = {
    "colr": read_colr,
    "pasp": read_pasp,
    "clap": read_clap,
    "fiel": read_fiel,
    "mdcv": read_mdcv,
    "clli": read_clli,
    "dvcC": read_dynamic_hdr,
    "dvvC": read_dynamic_hdr,
    "SmDm": read_smdm,
    "CoLL": read_coll,
    "st3d": read_st3d,
    "sv3d": read_sv3d,
    "vexu": read_vexu,
}


def read_entry(children: list[Box]) -> tuple[dict[str, Said], list[Notice]]:
    """Return the traits that a sample entry's children state, the first statement winning."""
    said: dict[str, Said] = {}
    notices: list[Notice] = []
    for box in children:
        reader = ENTRY_READERS.get(box.type)
        if reader is None:
            continue
        try:
            stated = list(reader(box))
        except (FieldError, ShortReadError) as error:
            notices.append(Notice("short-box", f"The box is too short: {error}.", box.path))
            continue
        _take(stated, box.path, said, notices)
    return said, notices


def _take(
    stated: list[tuple[str, TraitValue] | tuple[str, TraitValue, TraitValue] | Notice],
    path: str,
    said: dict[str, Said],
    notices: list[Notice],
) -> None:
    for item in stated:
        if isinstance(item, Notice):
            notices.append(item)
            continue
        trait, value, *others = item
        if trait in said and said[trait].value != value:
            text = f"A second box states another {trait}; the first one stands."
            notices.append(Notice("repeated-box", text, path))
        said.setdefault(trait, Said(value=value, where=path, also=others[0] if others else None))
