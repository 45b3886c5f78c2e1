"""A whole AVI file: what its headers can say is size, rate, and with `vprp` aspect and fields."""

import contextlib
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import gcd

from ....errors import UnreadableFileError, cut_off
from ...coded import CodedHeaders, HeaderUnit
from ...layout import FieldError, Layout
from ...model import AudioTrack, Notice, Said, TraitValue, VideoTrack
from ...window import Window
from ..decoder import decoder_codec
from ..fourcc import codec_of
from ..model import WrapperReading
from .chunks import (
    CHUNK,
    HEAD_BYTES,
    INDEX_ENTRY,
    PICTURE_FORMAT,
    SOUND_FORMAT,
    STRH,
    VPRP,
    Chunk,
    code_of,
    walk,
)

KEY_FRAME = 0x10
SOUND_CODECS = {1: "pcm", 0x50: "mp2", 0x55: "mp3", 0xFF: "aac", 0x2000: "ac3", 0xF1AC: "flac"}
MAX_INDEX_BYTES = 256 * 1024
FIELD_PAIR = 2
WANTED_KEYS = 2


@dataclass(frozen=True, slots=True)
class _Track:
    """One stream's list: its header, and its other chunks by id."""

    number: int
    path: str
    header: dict[str, int]
    parts: dict[str, Chunk]

    @property
    def type(self) -> str:
        return code_of(self.header["type"])


def read_avi(window: Window) -> WrapperReading:
    """Return what the headers say, and the coded headers of the first picture stream.

    Raises UnreadableFileError for a file cut before its headers end, or without a picture.
    """
    top = _top(window)
    tracks = list(_tracks(top["hdrl"]))
    pictures = [t for t in tracks if t.type == "vids" and "strf" in t.parts]
    if not pictures:
        raise UnreadableFileError(
            "The file holds no picture stream. Choose the file with the picture.",
            code="no-picture",
            where="hdrl",
        )
    track = pictures[0]
    form = _read(track.parts["strf"], PICTURE_FORMAT)
    code = code_of(form["compression"])
    codec = codec_of(code) or decoder_codec(window, code)
    private = track.parts["strf"].bytes()[PICTURE_FORMAT.size_bytes : form["size"]]
    where = f"{track.path}/strf"
    said, notices = _witness(track, form)
    notices += [Notice("other-picture", OTHER, other.path) for other in pictures[1:]]
    return WrapperReading(
        wrapper="avi",
        index_first=None,
        video=_video(top, track, tracks, codec, code),
        audio=tuple(_sound(t) for t in tracks if t.type == "auds" and "strf" in t.parts),
        witness=said,
        coded=CodedHeaders(
            codec=codec,
            length_bytes=0,
            config=(HeaderUnit(private, where),) if private.strip(b"\0") else (),
            samples=tuple(_samples(window, top, track)),
        ),
        notices=tuple(notices),
    )


OTHER = "Another picture stream; it is not described."


def _top(window: Window) -> dict[str, Chunk]:
    found: dict[str, Chunk] = {}
    for form in walk(window):
        if form.is_list:
            if form.missing > 1:  # the last chunk's padding byte is often left out
                raise cut_off(
                    f"The file is cut off: {form.missing} bytes of its pictures are missing",
                    form.path,
                )
            for chunk in form.children():
                found.setdefault(chunk.id, chunk)
        break
    if "hdrl" not in found:
        raise cut_off("The file ends before its headers do", "hdrl")
    return found


def _read(chunk: Chunk, layout: Layout) -> dict[str, int]:
    return dict(layout.read(chunk.bytes()))


def _tracks(hdrl: Chunk) -> Iterator[_Track]:
    number = 0
    for chunk in hdrl.children():
        if chunk.id != "strl":
            continue
        parts: dict[str, Chunk] = {}
        for part in chunk.children():
            parts.setdefault(part.id, part)
        with contextlib.suppress(KeyError, FieldError):
            yield _Track(number, chunk.path, _read(parts["strh"], STRH), parts)
        number += 1


def _witness(track: _Track, form: dict[str, int]) -> tuple[dict[str, Said], list[Notice]]:
    said: dict[str, Said] = {}
    notices = []

    def state(trait: str, value: TraitValue, part: str) -> None:
        said[trait] = Said(value=value, where=f"{track.path}/{part}")

    if form["width"] > 0 and form["height"]:
        # A negative height means rows from the top; it is the same picture.
        state("raster", (form["width"], abs(form["height"])), "strf")
    if track.header["rate"] and track.header["scale"]:
        rate = Fraction(track.header["rate"], track.header["scale"])
        state("frame_rate", (rate.numerator, rate.denominator), "strh")
    if "vprp" in track.parts:
        try:
            for trait, value in _properties(_read(track.parts["vprp"], VPRP)):
                state(trait, value, "vprp")
        except FieldError as error:
            notices.append(Notice("short-chunk", f"{error}.", f"{track.path}/vprp"))
    return said, notices


def _properties(vprp: dict[str, int]) -> Iterator[tuple[str, TraitValue]]:
    """State the pixel aspect that the frame's stated shape makes, and interlace."""
    h = vprp["aspect_x"] * vprp["frame_height"]
    v = vprp["aspect_y"] * vprp["frame_width"]
    if h and v:
        yield "pixel_aspect", (h // gcd(h, v), v // gcd(h, v))
    if vprp["fields_per_frame"] == FIELD_PAIR:
        yield "scan", "interlaced"


def _video(
    top: dict[str, Chunk], track: _Track, tracks: list[_Track], codec: str, code: str
) -> VideoTrack:
    head = track.header
    count = head["length"]
    duration = count * head["scale"] / head["rate"] if head["rate"] and count else None
    rate = None
    if duration and "movi" in top:
        sound = sum(t.bit_rate or 0 for t in map(_sound, _with_format(tracks)))
        rate = max(round(top["movi"].body.size * 8 / duration) - sound, 0) or None
    return VideoTrack(
        codec=codec,
        codec_tag=code,
        frame_count=count or None,
        duration_s=round(duration, 6) if duration else None,
        bit_rate=rate,
    )


def _with_format(tracks: list[_Track]) -> list[_Track]:
    return [track for track in tracks if track.type == "auds" and "strf" in track.parts]


def _sound(track: _Track) -> AudioTrack:
    try:
        form = _read(track.parts["strf"], SOUND_FORMAT)
    except FieldError:
        return AudioTrack(codec="unknown")
    return AudioTrack(
        codec=SOUND_CODECS.get(form["format"], f"format {form['format']}"),
        sample_rate_hz=form["samples_per_second"] or None,
        channels=form["channels"] or None,
        bit_rate=form["bytes_per_second"] * 8 or None,
    )


def _samples(window: Window, top: dict[str, Chunk], track: _Track) -> Iterator[HeaderUnit]:
    """Yield the first bytes of the first frame and of the second key frame the index names."""
    movi = top.get("movi")
    if movi is None:
        return
    prefix = f"{track.number:02d}"
    first = next((c for c in walk(movi.body) if c.id[:2] == prefix and not c.is_list), None)
    if first is not None and first.body.size:
        yield HeaderUnit(first.bytes(), "frame 0")
    if "idx1" in top and first is not None:
        yield from _second_key(window, top["idx1"], first)


def _second_key(window: Window, index: Chunk, first: Chunk) -> Iterator[HeaderUnit]:
    data = index.bytes(MAX_INDEX_BYTES)
    base, number, keys = None, -1, 0
    for offset in range(0, len(data) - INDEX_ENTRY.size_bytes + 1, INDEX_ENTRY.size_bytes):
        entry = INDEX_ENTRY.read(data, offset)
        if code_of(entry["id"]) != first.id:
            continue
        number += 1
        if base is None:  # offsets count from the file's start or from the list's, as writers like
            base = first.body.start - CHUNK.size_bytes - entry["offset"]
        keys += bool(entry["flags"] & KEY_FRAME)
        if keys == WANTED_KEYS:
            start = base + entry["offset"] + CHUNK.size_bytes - window.start
            size = min(entry["size"], HEAD_BYTES)
            if start >= 0 and start + size <= window.size:
                yield HeaderUnit(window.read(start, size), f"frame {number}")
            return
