"""Edit lists: what part of the track is shown, and when. Source: ISO/IEC 14496-12 8.6.6.

They change no trait, but an export whose list trims or delays its picture plays otherwise than its
samples suggest, so that both are notices.
"""

from dataclasses import dataclass

from ...layout import FieldError
from ...model import Notice
from ...window import ShortReadError
from . import layouts
from .boxes import Box, find
from .samples import SampleTotals
from .track import Track, read_versioned

EMPTY = -1
MAX_EDITS = 1000
LEAST_S = 0.05
"""Less is the time by which writers let coded order run ahead of the shown one."""


@dataclass(frozen=True, slots=True)
class Edit:
    """One edit: how long it lasts (movie time scale) and where it starts (media time scale)."""

    duration: int
    media_time: int


def read_edits(box: Box) -> list[Edit]:
    """Return the edits of an `elst` box; as many as there are, if it is cut short."""
    data = box.bytes(layouts.TABLE.size_bytes + 20 * MAX_EDITS)
    layout = layouts.EDIT[1 if data[:1] == b"\1" else 0]
    count = layouts.TABLE.read(data)["count"]
    offset = layouts.TABLE.size_bytes
    found: list[Edit] = []
    while len(found) < min(count, MAX_EDITS) and offset + layout.size_bytes <= len(data):
        edit = layout.read(data, offset)
        found.append(Edit(edit["duration"], edit["media_time"]))
        offset += layout.size_bytes
    return found


def edit_notices(track: Track, movie: list[Box], totals: SampleTotals) -> list[Notice]:
    """Return what the track's edit list does that its samples do not show."""
    box, header = find(track.box.children(), "edts", "elst"), find(movie, "mvhd")
    if box is None or header is None or not track.timescale:
        return []
    try:
        edits = read_edits(box)
        scale = read_versioned(header, layouts.MVHD)["timescale"]
    except (FieldError, ShortReadError):
        return [Notice("short-box", "The edit list is cut short.", box.path)]
    if not scale:
        return []
    delay = sum(edit.duration for edit in edits if edit.media_time == EMPTY) / scale
    shown = [edit for edit in edits if edit.media_time != EMPTY]
    lasts = sum(edit.duration for edit in shown) / scale
    whole = totals.duration / track.timescale
    notices = []
    if delay > LEAST_S:
        text = f"The edit list shows nothing for the first {delay:.2f} s."
        notices.append(Notice("edit-delay", text, box.path))
    if len(shown) > 1:
        text = f"The edit list puts {len(shown)} parts of the track together."
        notices.append(Notice("edit-parts", text, box.path))
    if lasts and whole and whole - lasts > LEAST_S:
        text = f"The edit list shows {lasts:.2f} s of the {whole:.2f} s that are stored."
        notices.append(Notice("edit-trims", text, box.path))
    return notices
