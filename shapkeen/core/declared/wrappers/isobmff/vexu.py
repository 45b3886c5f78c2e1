"""Extended usage of a picture: eyes, packing and projection as newer files state them.

Source: the box layouts of the reference (eyes, stri, proj, prji); pack and pkin from memory.
All are checked against what the FFmpeg libraries write and read.
"""

from collections.abc import Iterator

from ...model import Notice, TraitValue
from ...projection import projection_traits
from . import layouts
from .boxes import Box, find

KINDS = {
    b"rect": "rectilinear",
    b"equi": "equirectangular",
    b"hequ": "half-equirectangular",
    b"fish": "fisheye",
}
PACKINGS = {
    # kind: left eye first, right eye first
    b"side": ("left-right", "right-left"),
    b"over": ("top-bottom", "bottom-top"),
}


def read_vexu(box: Box) -> Iterator[tuple[str, TraitValue] | Notice]:
    """State how eyes are carried, and the projection."""
    inside = box.children()
    stri, pkin = find(inside, "eyes", "stri"), find(inside, "pack", "pkin")
    if stri is not None:
        yield from _eyes(stri, pkin)
    prji = find(inside, "proj", "prji")
    if prji is not None:
        kind = layouts.PRJI.read(prji.bytes(layouts.PRJI.size_bytes))["kind"].to_bytes(4, "big")
        if kind in KINDS:
            yield from projection_traits(KINDS[kind], None)
        else:
            text = f"A projection of the unknown kind {kind.decode('latin-1')!r}."
            yield Notice("unknown-projection", text, prji.path)


def _eyes(stri: Box, pkin: Box | None) -> Iterator[tuple[str, TraitValue]]:
    eyes = layouts.STRI.read(stri.bytes(layouts.STRI.size_bytes))
    if not (eyes["left_eye"] and eyes["right_eye"]):
        return  # one eye alone is what every flat picture is
    if pkin is None:
        yield "stereo", "multiview"
        return
    kind = layouts.PKIN.read(pkin.bytes(layouts.PKIN.size_bytes))["kind"].to_bytes(4, "big")
    if kind in PACKINGS:
        yield "stereo", PACKINGS[kind][eyes["eye_views_reversed"]]
    else:
        yield "stereo", "other"
