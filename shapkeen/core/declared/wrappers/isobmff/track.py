"""One track: its header, handler, time scale, and first sample entry."""

from dataclasses import dataclass

from ...layout import FieldError, Layout
from ...model import Notice, Said, TraitValue
from ...window import ShortReadError
from . import layouts
from .boxes import Box, find
from .samples import read_totals

ENABLED = 0x1
# (a, b, c, d) signs → rotation clockwise, mirrored before it. (x, y) → (ax + cy, bx + dy).
ORIENTATIONS = {
    (1, 0, 0, 1): (0, False),
    (0, 1, -1, 0): (90, False),
    (-1, 0, 0, -1): (180, False),
    (0, -1, 1, 0): (270, False),
    (-1, 0, 0, 1): (0, True),
    (0, -1, -1, 0): (90, True),
    (1, 0, 0, -1): (180, True),
    (0, 1, 1, 0): (270, True),
}
STILL_ENTRIES = {"jpeg", "mjpa", "mjpb", "png ", "tiff", "gif "}
"""Cover pictures are carried as one-sample tracks of these."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Track:
    """A track with what is needed to describe it; `entry` is its first sample entry."""

    box: Box
    track_id: int
    enabled: bool
    handler: str
    timescale: int
    entry: Box | None
    entry_count: int
    header: dict[str, int]
    stbl: dict[str, Box]
    language: int = 0
    """As `mdhd` packs it."""

    @property
    def is_picture(self) -> bool:
        """Return whether it is a picture track that is no attached still."""
        return self.handler == "vide" and self.entry is not None and not self.is_still

    @property
    def is_still(self) -> bool:
        """Return whether it is a cover picture or another single still."""
        coded_as_still = self.entry is not None and self.entry.type in STILL_ENTRIES
        return coded_as_still and read_totals(self.stbl).count <= 1


def read_track(trak: Box) -> Track | None:
    """Return a track, or None where a header that everything hangs on is missing or short."""
    try:
        return _read_track(trak)
    except (ShortReadError, FieldError):
        return None


def _read_track(trak: Box) -> Track | None:
    inside = trak.children()
    tkhd, mdia = find(inside, "tkhd"), find(inside, "mdia")
    if tkhd is None or mdia is None:
        return None
    header = dict(read_versioned(tkhd, layouts.TKHD))
    media = mdia.children()
    mdhd, hdlr = find(media, "mdhd"), find(media, "hdlr")
    stbl_box = find(media, "minf", "stbl")
    if mdhd is None or hdlr is None or stbl_box is None:
        return None
    stbl: dict[str, Box] = {}
    for box in stbl_box.children():
        stbl.setdefault(box.type, box)
    entry, entry_count = _first_entry(stbl.get("stsd"))
    handler = layouts.HDLR.read(hdlr.bytes(layouts.HDLR.size_bytes))["handler"]
    media_header = read_versioned(mdhd, layouts.MDHD)
    return Track(
        box=trak,
        track_id=header["track_id"],
        enabled=bool(header["flags"] & ENABLED),
        handler=handler.to_bytes(4, "big").decode("latin-1"),
        timescale=media_header["timescale"],
        language=media_header["language"],
        entry=entry,
        entry_count=entry_count,
        header=header,
        stbl=stbl,
    )


def read_versioned(box: Box, layouts_by_version: dict[int, Layout]) -> dict[str, int]:
    """Return the fields of a box whose widths hang on its version."""
    data = box.bytes(128)
    layout = layouts_by_version.get(data[0] if data else 0, layouts_by_version[0])
    return dict(layout.read(data))


def _first_entry(stsd: Box | None) -> tuple[Box | None, int]:
    if stsd is None:
        return None, 0
    count = layouts.STSD.read(stsd.bytes(layouts.STSD.size_bytes))["count"]
    entries = stsd.children(skip=layouts.STSD.size_bytes)
    return (entries[0] if entries else None), count


def read_orientation(track: Track, raster: tuple[int, int]) -> tuple[dict[str, Said], list[Notice]]:
    """Return rotation, mirror and display size; identity and equal sizes say nothing."""
    said: dict[str, Said] = {}
    where = f"{track.box.path}/tkhd"
    cells = tuple(track.header[name] for name in "abcd")
    signs = tuple((cell > 0) - (cell < 0) for cell in cells)
    if signs not in ORIENTATIONS:
        text = "The track matrix is neither a quarter turn nor a mirror; it is not interpreted."
        return said, [Notice("odd-matrix", text, where)]
    rotation, mirrored = ORIENTATIONS[signs]
    if rotation:
        said["rotation"] = Said(value=rotation, where=where)
    if mirrored:
        said["mirror"] = Said(value=True, where=where)
    shown: tuple[int, ...] = tuple(
        round(track.header[side] / 65536) for side in ("width", "height")
    )
    if all(shown) and shown != raster:
        value: TraitValue = shown
        said["display_size"] = Said(value=value, where=where)
    return said, []
