"""Y4M: one line of words says all. Source: the format as written (reference, boxes section 10).

The picture behind it is not coded, so that only the wrapper speaks.
"""

import re
from collections.abc import Iterator
from fractions import Fraction

from ...errors import UnreadableFileError
from ..coded import CodedHeaders
from ..model import Said, TraitValue, VideoTrack
from ..outline import Part, as_fields
from ..window import Window
from .model import WrapperReading

MAGIC = b"YUV4MPEG2"
MAX_HEADER_BYTES = 4096
FRAME_MARK = len(b"FRAME\n")
NAMES = {
    "W": "width",
    "H": "height",
    "F": "frame_rate",
    "I": "interlace",
    "A": "pixel_aspect",
    "C": "chroma",
    "X": "comment",
}
SCANS = {"p": "progressive", "t": "top-first", "b": "bottom-first"}
LOCATIONS = {"420jpeg": 1, "420mpeg2": 0, "420paldv": 2}
"""The sampling's word → H.273 Chroma420SampleLocType."""
SAMPLINGS = {"420": "4:2:0", "422": "4:2:2", "444": "4:4:4", "mono": "4:0:0"}
RANGES = {"LIMITED": "limited", "FULL": "full"}
CHROMA_SHARE = {"4:2:0": Fraction(1, 2), "4:2:2": Fraction(1), "4:4:4": Fraction(2)}
DEPTH_BY_NAME = re.compile(r"^(420|422|444|mono)p?(\d*)")


def starts_y4m(head: bytes) -> bool:
    """Return whether the first bytes start a Y4M file."""
    return head.startswith(MAGIC)


def _words(window: Window) -> list[str]:
    head = window.read(0, min(window.size, MAX_HEADER_BYTES))
    line, end, _ = head.partition(b"\n")
    if not end:
        raise UnreadableFileError(
            "The file's header line does not end. It is cut off: export it again.",
            code="truncated",
            where="header line",
        )
    return line.decode("latin-1").split()[1:]


def read_y4m(window: Window) -> WrapperReading:
    """Return what the header line says; raises UnreadableFileError where it states no size."""
    words = _words(window)
    stated = dict(_stated(words))
    if "raster" not in stated:
        raise UnreadableFileError(
            "The header line states no picture size. Export the file again.",
            code="damaged-index",
            where="header line",
        )
    said = {trait: Said(value=v, where="header line") for trait, v in stated.items()}
    return WrapperReading(
        wrapper="other",
        index_first=None,
        video=_video(window, stated),
        audio=(),
        witness=said,
        coded=CodedHeaders(codec="rawvideo", length_bytes=0, config=(), samples=()),
        notices=(),
    )


def outline_y4m(window: Window) -> tuple[Part, ...]:
    """Return the header line, a field for each word."""
    words = _words(window)
    size = len(" ".join(words)) + len(MAGIC) + 2
    fields = as_fields([(NAMES.get(word[:1], word[:1]), word[1:]) for word in words])
    return (Part(name="header line", where="header line", start=0, size=size, fields=fields),)


def _stated(words: list[str]) -> Iterator[tuple[str, TraitValue]]:
    values = {word[0]: word[1:] for word in words if word[0] != "X"}
    more = dict(word[1:].split("=", 1) for word in words if word[0] == "X" and "=" in word)
    if _whole(values.get("W")) and _whole(values.get("H")):
        yield "raster", (int(values["W"]), int(values["H"]))
    for letter, trait in (("F", "frame_rate"), ("A", "pixel_aspect")):
        ratio = _ratio(values.get(letter, ""))
        if ratio is not None:
            yield trait, ratio
    if values.get("I") in SCANS:
        yield "scan", SCANS[values["I"]]
    yield from _sampling(values.get("C"))
    if more.get("COLORRANGE") in RANGES:
        yield "range", RANGES[more["COLORRANGE"]]


def _sampling(word: str | None) -> Iterator[tuple[str, TraitValue]]:
    if word is None:
        return
    found = DEPTH_BY_NAME.match(word)
    if found is None:
        return
    kind, depth = found.groups()
    yield "chroma", SAMPLINGS[kind]
    # "420jpeg" and the like are 8 bits: only a number behind says otherwise.
    yield "bit_depth", int(depth) if depth else 8
    if word in LOCATIONS:
        yield "chroma_location", LOCATIONS[word]


def _whole(text: str | None) -> bool:
    return text is not None and text.isascii() and text.isdigit() and 0 < int(text[:9]) < 1 << 20


def _ratio(text: str) -> tuple[int, int] | None:
    """Return a ratio in lowest terms; 0:0 means unknown."""
    over, _, under = text.partition(":")
    if not (_whole(over) and under.isascii() and under.isdigit() and 0 < int(under) < 1 << 31):
        return None
    ratio = Fraction(int(over), int(under))
    return ratio.numerator, ratio.denominator


def _video(window: Window, stated: dict[str, TraitValue]) -> VideoTrack:
    raster, rate = stated["raster"], stated.get("frame_rate")
    assert isinstance(raster, tuple)  # noqa: S101  (stated so above)
    share = CHROMA_SHARE.get(str(stated.get("chroma", "4:2:0")), Fraction(0))
    depth = stated.get("bit_depth", 8)
    width = 2 if isinstance(depth, int) and depth > 8 else 1
    size = int(raster[0] * raster[1] * (1 + share)) * width
    count = window.size // (size + FRAME_MARK)
    seconds = float(count * rate[1] / rate[0]) if isinstance(rate, tuple) and count else None
    return VideoTrack(
        codec="rawvideo",
        codec_tag="YUV4MPEG2",
        frame_count=count or None,
        duration_s=round(seconds, 6) if seconds else None,
        bit_rate=round(count * size * 8 / seconds) if seconds else None,
    )
