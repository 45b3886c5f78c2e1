"""AVI's chunks: their fields as tables, and walking them.

Sources: the RIFF multimedia file format and its OpenDML extensions (from memory), checked against
files of the FFmpeg multiplexer. All numbers are little-endian.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from ...layout import FieldError, Layout, fields
from ...outline import Part, as_fields
from ...window import Window

RIFF = "RIFF, OpenDML"
CHUNK = Layout("chunk", fields(id=32, size=32), source=RIFF, little=True)
AVIH = Layout(
    "avih",
    fields(
        microseconds_per_frame=32,
        max_bytes_per_second=32,
        padding=32,
        flags=32,
        total_frames=32,
        initial_frames=32,
        streams=32,
        buffer_size=32,
        width=32,
        height=32,
    ),
    source=RIFF,
    little=True,
)
STRH = Layout(
    "strh",
    fields(
        type=32,
        handler=32,
        flags=32,
        priority=16,
        language=16,
        initial_frames=32,
        scale=32,
        rate=32,
        start=32,
        length=32,
        buffer_size=32,
        quality=32,
        sample_size=32,
        left=-16,
        top=-16,
        right=-16,
        bottom=-16,
    ),
    source=RIFF,
    little=True,
)
PICTURE_FORMAT = Layout(
    "strf",
    fields(
        size=32,
        width=-32,
        height=-32,
        planes=16,
        bits=16,
        compression=32,
        image_size=32,
        x_per_metre=32,
        y_per_metre=32,
        colours_used=32,
        colours_important=32,
    ),
    source=RIFF,
    little=True,
)
SOUND_FORMAT = Layout(
    "strf",
    fields(format=16, channels=16, samples_per_second=32, bytes_per_second=32, block=16, bits=16),
    source=RIFF,
    little=True,
)
VPRP = Layout(
    "vprp",
    fields(
        format_token=32,
        standard=32,
        refresh_rate=32,
        total_width=32,
        total_height=32,
        aspect_y=16,
        aspect_x=16,
        frame_width=32,
        frame_height=32,
        fields_per_frame=32,
    ),
    source=f"{RIFF}: video properties header",
    little=True,
)
INDEX_ENTRY = Layout("idx1", fields(id=32, flags=32, offset=32, size=32), source=RIFF, little=True)
LAYOUTS = {"avih": AVIH, "strh": STRH, "vprp": VPRP}
MAX_CHUNKS = 4096
UNTOLD = frozenset({0xFFFFFFFF, 0x7FFFFFFF})
"""Sizes written where the end was not known yet: what is being streamed."""
HEAD_BYTES = 64 * 1024


@dataclass(frozen=True, slots=True)
class Chunk:
    """One chunk: its id, or a list's type, its path, and its body.

    missing: bytes that its header claims and the file does not have.
    """

    id: str
    path: str
    body: Window
    is_list: bool
    missing: int = 0

    def children(self) -> list["Chunk"]:
        """Return the chunks of a list."""
        return list(walk(self.body, self.path))

    def bytes(self, limit: int = HEAD_BYTES) -> bytes:
        """Return the body, at most `limit` bytes of it."""
        return self.body.read(0, min(self.body.size, limit))


def code_of(number: int) -> str:
    """Return a four-character code as text."""
    return number.to_bytes(4, "little").decode("latin-1")


def starts_avi(head: bytes) -> bool:
    """Return whether the first bytes start an AVI file."""
    return head[:4] == b"RIFF" and head[8:12] == b"AVI "


def walk(window: Window, path: str = "") -> Iterator[Chunk]:
    """Yield the chunks of a window; the last one may be cut off. At most MAX_CHUNKS."""
    offset = 0
    counts: dict[str, int] = {}
    for _ in range(MAX_CHUNKS):
        if offset + CHUNK.size_bytes > window.size:
            return
        head = CHUNK.read(window.read(offset, CHUNK.size_bytes))
        kind, start = code_of(head["id"]), offset + CHUNK.size_bytes
        size = min(head["size"], window.size - start)
        missing = 0 if head["size"] in UNTOLD else head["size"] - size
        is_list = kind in ("RIFF", "LIST") and size >= 4
        if is_list:
            kind = window.read(start, 4).decode("latin-1")
            start, size = start + 4, size - 4
        number = counts.get(kind, 0)
        counts[kind] = number + 1
        name = f"{kind.strip()}[{number}]" if number or kind == "strl" else kind.strip()
        where = f"{path}/{name}" if path else name
        yield Chunk(kind, where, window.part(start, size), is_list, missing)
        offset = start + size + (size & 1)


def outline_avi(window: Window) -> tuple[Part, ...]:
    """Return the headers' chunks with their fields; picture data as one part."""
    return tuple(_outlined(chunk, "") for chunk in walk(window))


def _outlined(chunk: Chunk, kind: str) -> Part:
    inside: list[Part] = []
    if chunk.is_list and chunk.id != "movi":
        for child in chunk.children():
            if child.id == "strh":
                kind = code_of(int.from_bytes(child.bytes(4), "little"))
            inside.append(_outlined(child, kind))
    return Part(
        name=chunk.id.strip(),
        where=chunk.path,
        start=chunk.body.start - CHUNK.size_bytes - 4 * chunk.is_list,
        size=chunk.body.size + CHUNK.size_bytes + 4 * chunk.is_list,
        fields=() if chunk.is_list else as_fields(dict(_fields(chunk, kind))),
        parts=tuple(inside),
    )


CODES = {"type", "handler", "compression"}


def _fields(chunk: Chunk, kind: str) -> Iterator[tuple[str, int | float | str]]:
    layout = LAYOUTS.get(chunk.id)
    if chunk.id == "strf":
        layout = {"vids": PICTURE_FORMAT, "auds": SOUND_FORMAT}.get(kind)
    if layout is None:
        return
    try:
        for name, value in layout.read(chunk.bytes(layout.size_bytes)).items():
            yield name, code_of(value) if name in CODES else value
    except FieldError:
        return
