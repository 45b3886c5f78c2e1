"""Pictures that show what happened: a moment of both, cut to where it shows most; a film."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from ..measured import Source
from ..measured.decoded.frames import Frame, FrameReader
from .screen import RENDERERS
from .stills import frame_at, png_of, sized_signals

Real = npt.NDArray[np.float32]
SCAN = (1120, 630)
"""Both are drawn at most so large; the cut is taken out of that."""
SHOWN = (448, 252)
CUT = 0.4
"""Of width and height: a cut shows so much of the picture."""
LOCAL = 2.2
"""How much more than everywhere the cut must differ; what differs everywhere is shown whole."""
ALIKE = 0.01
"""Of both shapes: pictures of other shapes cannot be laid over each other."""


@dataclass(frozen=True, slots=True)
class TellingPair:
    """Master and export as PNG, and where both were cut: left, top, width, height as fractions."""

    master_png: bytes
    export_png: bytes
    cut: tuple[float, float, float, float]


WHOLE = (0.0, 0.0, 1.0, 1.0)


def telling_pair(
    sources: tuple[Source, Source],
    frames: tuple[int, int],
    *,
    display: str,
    aspects: tuple[tuple[int, int], tuple[int, int]],
    whole: bool,
) -> TellingPair:
    """Return one moment of master and export as on a simulated display.

    frames: of master and export. aspects: pixel aspects to obey. whole: never cut.

    Raises UnreadableFileError where a frame cannot be decoded.
    """
    drawn = [
        _drawn(source, frame_at(source, number), display, aspect)
        for source, number, aspect in zip(sources, frames, aspects, strict=True)
    ]
    cut = WHOLE if whole else _place(drawn[0], drawn[1])
    pngs = [
        png_of(_shown(_within(picture, cut)), source.path.name)
        for picture, source in zip(drawn, sources, strict=True)
    ]
    return TellingPair(pngs[0], pngs[1], cut)


def _drawn(source: Source, frame: Frame, display: str, aspect: tuple[int, int]) -> Real:
    sized = sized_signals(frame, source.reading, aspect, SCAN)
    shown = np.clip(RENDERERS[display](sized, source.reading), 0.0, 1.0)
    return np.asarray(shown, dtype=np.float32)


def _place(master: Real, export: Real) -> tuple[float, float, float, float]:
    """Return the part of the picture where both differ most; WHOLE where they do everywhere."""
    high, wide = export.shape[:2]
    if abs(master.shape[1] / master.shape[0] / (wide / high) - 1) > ALIKE:
        return WHOLE
    own = cv2.resize(master, (wide, high), interpolation=cv2.INTER_AREA)
    off = np.abs(own - export).mean(axis=2).astype(np.float32)
    window = (max(round(wide * CUT), 1), max(round(high * CUT), 1))
    mean = cv2.blur(off, window, borderType=cv2.BORDER_REFLECT)
    x0, y0 = window[0] // 2, window[1] // 2
    inner = mean[y0 : high - y0 or None, x0 : wide - x0 or None]
    if inner.size == 0 or float(inner.max()) < LOCAL * float(off.mean()):
        return WHOLE
    down, across = np.unravel_index(int(inner.argmax()), inner.shape)
    return float(across) / wide, float(down) / high, CUT, CUT


def _within(picture: Real, cut: tuple[float, float, float, float]) -> Real:
    high, wide = picture.shape[:2]
    left, top = round(cut[0] * wide), round(cut[1] * high)
    right, bottom = left + max(round(cut[2] * wide), 1), top + max(round(cut[3] * high), 1)
    return picture[top:bottom, left:right]


def _shown(picture: Real) -> Real:
    high, wide = picture.shape[:2]
    scale = min(SHOWN[0] / wide, SHOWN[1] / high)
    if scale >= 1:
        return picture
    size = (max(round(wide * scale), 1), max(round(high * scale), 1))
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), dtype=np.float32)


COLUMN = 24
"""Samples of a band down a column."""


def film_band(
    source: Source, frames: Sequence[int], *, display: str, aspect: tuple[int, int]
) -> bytes:
    """Return a film as a band, PNG: a column a frame, each frame made as narrow as that.

    frames: rising numbers. Raises UnreadableFileError where none can be decoded.
    """
    wanted = sorted(set(frames))
    with FrameReader(source.path, source.reading.rate) as reader:
        columns = dict(_columns(reader, source, wanted, display, aspect))
    if not columns:
        frame_at(source, wanted[0])  # which says why
    last = next(iter(columns.values()))
    made = []
    for number in frames:
        last = columns.get(number, last)
        made.append(last)
    return png_of(np.concatenate(made, axis=1), source.path.name)


def _columns(
    reader: FrameReader,
    source: Source,
    frames: Sequence[int],
    display: str,
    aspect: tuple[int, int],
) -> Iterator[tuple[int, Real]]:
    for frame in reader.read(frames):
        sized = sized_signals(frame, source.reading, aspect, (64, COLUMN * 2))
        shown = np.clip(RENDERERS[display](sized, source.reading), 0.0, 1.0)
        narrow = cv2.resize(shown.astype(np.float32), (1, COLUMN), interpolation=cv2.INTER_AREA)
        yield frame.number, np.asarray(narrow, dtype=np.float32).reshape(COLUMN, 1, -1)
