"""The picture track, made to say what is wished: its sample entries, its header, its version 1 XML.

Source: ISO/IEC 14496-12 8.3.2 (header and matrix); tables of declared/wrappers/isobmff.
"""

from dataclasses import replace

from ...declared import TraitValue
from ...declared.wrappers.isobmff.track import ORIENTATIONS
from ..context import Context
from ..wishes import SPHERE, Wishes
from .entry import said_in_entry
from .immersive import say_sphere, say_stereo
from .spherical_v1 import is_v1, said_in_v1, stereo_of_v1
from .tree import Node

MATRIX_AT = {0: 40, 1: 52}
"""In the header's body, by its version; width and height follow the nine words."""
MATRIX_BYTES = 36
ONE, ONE_W = 1 << 16, 1 << 30
IN_V1 = frozenset({"equirectangular", "half-equirectangular"})


def said_in_track(trak: Node, wishes: Wishes, context: Context) -> Node:
    """Return a picture track that says what is wished, as far as its boxes can."""
    raster = raster_of(trak)
    before = _aspect(trak)
    eyes = stereo_of_v1(trak)
    if eyes and "projection" in wishes and wishes["projection"] is None:
        wishes = {"stereo": eyes, **wishes}  # stated only where the sphere was
    trak = _with_entries(trak, wishes, context)
    trak = said_in_v1(trak, wishes, raster)
    return _with_header(trak, wishes, raster, before)


def entries_of(trak: Node) -> tuple[Node, ...]:
    """Return the sample entries."""
    stsd = trak.first("mdia", "minf", "stbl", "stsd")
    return tuple(stsd.children or ()) if stsd else ()


def replaced(node: Node, path: tuple[str, ...], made: Node) -> Node:
    """Return a box with the first one at a path below it exchanged."""
    if not path:
        return made
    child = node.first(path[0])
    if child is None:
        return node
    return node.with_child(replaced(child, path[1:], made), instead=child)


def raster_of(trak: Node) -> tuple[int, int]:
    """Return the stored size that the first sample entry gives; (0, 0) without one."""
    entries = entries_of(trak)
    head = entries[0].head if entries else b""
    return int.from_bytes(head[24:26], "big"), int.from_bytes(head[26:28], "big")


def _aspect(trak: Node) -> float:
    entries = entries_of(trak)
    pasp = entries[0].first("pasp") if entries else None
    if pasp is None or len(pasp.head) < 8:
        return 1.0
    h, v = (int.from_bytes(pasp.head[i : i + 4], "big") for i in (0, 4))
    return h / v if h and v else 1.0


def _with_entries(trak: Node, wishes: Wishes, context: Context) -> Node:
    stsd = trak.first("mdia", "minf", "stbl", "stsd")
    if stsd is None:
        return trak
    in_v1 = any(is_v1(child) for child in trak.children or ())
    made = tuple(
        _said(entry, wishes, context, in_v1=in_v1) for entry in stsd.children or ()
    )  # fmt: skip
    return replaced(trak, ("mdia", "minf", "stbl", "stsd"), replace(stsd, children=made))


def _said(entry: Node, wishes: Wishes, context: Context, *, in_v1: bool) -> Node:
    if entry.children is None:
        return entry
    entry = say_stereo(said_in_entry(entry, wishes, context), wishes)
    if in_v1 and entry.first("sv3d") is None:
        projection = wishes.get("projection")
        if not isinstance(projection, str) or projection in IN_V1:
            return entry  # version 1 says it; a second description could only differ
        # What it says beside the projection would not be taken over by version 2.
        wishes = {**{k: v for k, v in context.stated.items() if k in SPHERE}, **wishes}
    return say_sphere(entry, wishes)


def _with_header(trak: Node, wishes: Wishes, raster: tuple[int, int], before: float) -> Node:
    """Return a track whose header shows the picture as wished: matrix, and size as displayed."""
    tkhd = trak.first("tkhd")
    at = MATRIX_AT.get(tkhd.head[0]) if tkhd and tkhd.head else None
    if tkhd is None or at is None or len(tkhd.head) < at + MATRIX_BYTES + 8:
        return trak
    words = [
        int.from_bytes(tkhd.head[at + i * 4 : at + i * 4 + 4], "big", signed=True) for i in range(9)
    ]
    sizes = tkhd.head[at + MATRIX_BYTES : at + MATRIX_BYTES + 8]
    shown = int.from_bytes(sizes[:4], "big") / ONE, int.from_bytes(sizes[4:], "big") / ONE
    size = _shown_size(shown, wishes, raster, before, _aspect(trak))
    turned = wishes.keys() & {"rotation", "mirror"}
    matrix = _matrix(words, wishes, size) if turned or size != shown else words
    body = b"".join(word.to_bytes(4, "big", signed=True) for word in matrix)
    body += b"".join(min(round(side * ONE), 0xFFFFFFFF).to_bytes(4, "big") for side in size)
    head = tkhd.head[:at] + body + tkhd.head[at + MATRIX_BYTES + 8 :]
    return trak.with_child(replace(tkhd, head=head), instead=tkhd)


def _shown_size(
    shown: tuple[float, float],
    wishes: Wishes,
    raster: tuple[int, int],
    before: float,
    now: float,
) -> tuple[float, float]:
    """Return the displayed size: as wished, else the raster's at a changed pixel aspect.

    A size that was another one than the old aspect makes, somebody meant so: it stays.
    """
    if "display_size" in wishes:
        wished = wishes["display_size"]
        if isinstance(wished, tuple):
            return float(wished[0]), float(wished[1])
        return float(raster[0]), float(raster[1])
    if now == before:
        return shown
    usual = (raster[0], raster[0] * before)
    same_height = abs(shown[1] - raster[1]) < 1
    if same_height and any(abs(shown[0] - width) < 1 for width in usual):
        return raster[0] * now, shown[1]
    return shown


def _matrix(words: list[int], wishes: Wishes, size: tuple[float, float]) -> list[int]:
    """Return the matrix of the wished turn and mirror, moved so that the picture begins at 0, 0."""
    a, b, c, d = ((word > 0) - (word < 0) for word in (words[0], words[1], words[3], words[4]))
    now = a, b, c, d
    rotation, mirrored = ORIENTATIONS.get(now, (0, False))
    if not wishes.keys() & {"rotation", "mirror"} and now not in ORIENTATIONS:
        return words
    rotation = _whole(wishes.get("rotation", rotation))
    mirrored = bool(wishes.get("mirror", mirrored))
    signs = next(key for key, value in ORIENTATIONS.items() if value == (rotation, mirrored))
    a, b, c, d = signs
    width, height = size
    right = (width if a < 0 else 0.0) + (height if c < 0 else 0.0)
    down = (width if b < 0 else 0.0) + (height if d < 0 else 0.0)
    places = round(right * ONE), round(down * ONE)
    return [a * ONE, b * ONE, 0, c * ONE, d * ONE, 0, *places, ONE_W]


def _whole(value: TraitValue | None) -> int:
    return int(value) if isinstance(value, int) else 0
