"""The timecode track: what its entry says of counting, and its first sample, the first frame."""

from collections.abc import Sequence

from ....geometry.timecode import StartTimecode
from ...layout import FieldError
from ...window import ShortReadError, Window
from .layouts import TIMECODE_ENTRY
from .samples import locate
from .track import Track

DROP_FRAME = 0x1
COUNTER = 0x8
"""Its samples count something else than time (flags: QuickTime File Format, from memory)."""
SAMPLE_BYTES = 4


def read_timecode(tracks: Sequence[Track], window: Window) -> StartTimecode | None:
    """Return the first frame's timecode; None where no track states one that can be."""
    for track in tracks:
        if track.handler == "tmcd" and track.entry is not None:
            try:
                return _read(track, window)
            except (ShortReadError, FieldError):
                return None
    return None


def _read(track: Track, window: Window) -> StartTimecode | None:
    assert track.entry is not None  # noqa: S101
    told = TIMECODE_ENTRY.read(track.entry.bytes(TIMECODE_ENTRY.size_bytes))
    places = locate(track.stbl, [0])
    if track.entry.type != "tmcd" or told["flags"] & COUNTER or not told["counted"] or not places:
        return None
    frame = int.from_bytes(window.read(places[0].offset, SAMPLE_BYTES), "big", signed=True)
    drops = bool(told["flags"] & DROP_FRAME) and told["counted"] % 30 == 0
    return StartTimecode(frame, told["counted"], drops) if frame >= 0 else None
