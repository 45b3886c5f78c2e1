"""Frames of a file as stills: made smaller, put on one of the screens, as codes or as PNG."""

import os
from collections.abc import Collection, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import partial

import cv2
import numpy as np
import numpy.typing as npt

from ..errors import UnreadableFileError
from ..measured import Reading, Source
from ..measured.decoded.frames import Frame, FrameReader, Plane
from ..measured.decoded.rgb import rgb_signals
from .light_views import HATCH
from .screen import RENDERERS, Real

Codes = npt.NDArray[np.uint8]
BAND = 8 * HATCH
"""Rows that are drawn at once: they lie near the processor then, and a hatch goes on in the
next ones."""
THREADS = min(len(os.sched_getaffinity(0)), 4)


def render_still(
    source: Source, number: int, *, display: str, aspect: tuple[int, int], most: tuple[int, int]
) -> bytes:
    """Return one frame as PNG; see render_stills."""
    return render_stills(source, [number], display=display, aspect=aspect, most=most)[0]


def render_stills(
    source: Source,
    numbers: Sequence[int],
    *,
    display: str,
    aspect: tuple[int, int],
    most: tuple[int, int],
) -> list[bytes]:
    """Return frames of these rising numbers as PNG, in the shape that the pixel aspect gives them.

    display: a key of RENDERERS. aspect: the pixel aspect to obey. most: largest width and height.
    Raises UnreadableFileError where one of them cannot be decoded.
    """
    draw = _Drawing(source, display, aspect, most)
    with FrameReader(source.path, source.reading.rate, gap_s=0) as reader:
        drawn = [draw(frame) for frame in reader.read(numbers)]
    if len(drawn) < len(numbers):
        raise _no_frame(numbers[-1], source)
    return drawn


def render_around(
    source: Source,
    number: int,
    neighbours: Collection[int],
    *,
    display: str,
    aspect: tuple[int, int],
    most: tuple[int, int],
) -> Iterator[tuple[int, bytes]]:
    """Yield a frame as PNG, then its neighbours: those behind it first, then those before it.

    As render_stills. The frame comes as soon as it can; what it took to decode it serves those
    behind it, too. Neighbours that do not exist are left out.
    """
    draw = _Drawing(source, display, aspect, most)
    behind = sorted(one for one in neighbours if one > number)
    before = sorted(one for one in neighbours if 0 <= one < number)
    found = False
    with FrameReader(source.path, source.reading.rate, gap_s=0) as reader:
        for frame in reader.read([number, *behind]):
            found = found or frame.number == number
            if not found:
                break
            yield frame.number, draw(frame)
    if not found:
        raise _no_frame(number, source)
    if before:
        with FrameReader(source.path, source.reading.rate, gap_s=0) as reader:
            for frame in reader.read(before):
                yield frame.number, draw(frame)


@dataclass(frozen=True, slots=True)
class _Drawing:
    """Draws frames of one file as PNG."""

    source: Source
    display: str
    aspect: tuple[int, int]
    most: tuple[int, int]

    def __call__(self, frame: Frame) -> bytes:
        codes = shown_codes(frame, self.source.reading, self.display, self.aspect, self.most)
        return _png(codes, self.source.path.name)


def shown_codes(
    frame: Frame, reading: Reading, display: str, aspect: tuple[int, int], most: tuple[int, int]
) -> Codes:
    """Return a frame as a screen shows it, at the shown shape: 8-bit R'G'B' (row, column, channel).

    display: a key of RENDERERS; each of them looks at one sample at a time. aspect, most: as in
    render_stills.
    """
    size = _shown_size(frame, aspect, most)
    if not _is_smaller(size, frame):
        return _codes(RENDERERS[display](sized_signals(frame, reading, aspect, most), reading))
    with ThreadPoolExecutor(THREADS) as pool:
        planes = pool.map(partial(smaller, size=size), (frame.luma, frame.cb, frame.cr))
        luma, cb, cr = planes
        small = replace(frame, luma=luma, cb=cb, cr=cr)
        draw = partial(_band, small, reading, display)
        return np.concatenate([*pool.map(draw, range(0, size[1], BAND))])


def _band(frame: Frame, reading: Reading, display: str, first: int) -> Codes:
    """Return some rows of a frame as a screen shows them; its planes are of one size."""
    rows = slice(first, first + BAND)
    part = replace(frame, luma=frame.luma[rows], cb=frame.cb[rows], cr=frame.cr[rows])
    return _codes(RENDERERS[display](rgb_signals(part, reading), reading))


def frame_at(source: Source, number: int) -> Frame:
    """Return one frame with planes of its own; raises UnreadableFileError where there is none."""
    with FrameReader(source.path, source.reading.rate, gap_s=0) as reader:
        frame = next(reader.read([number]), None)
        if frame is None:
            raise _no_frame(number, source)
        planes = (plane.copy() for plane in (frame.luma, frame.cb, frame.cr))
        luma, cb, cr = planes
        return replace(frame, luma=luma, cb=cb, cr=cr)


def _no_frame(number: int, source: Source) -> UnreadableFileError:
    return UnreadableFileError(
        f"There is no frame {number}. Choose an earlier one.",
        code="no-frame",
        where=source.path.name,
    )


def _codes(shown: Real) -> Codes:
    codes = np.clip(shown, 0.0, 1.0)
    return (codes * np.float32(255) + np.float32(0.5)).astype(np.uint8)  # whole parts


def png_of(shown: Real, name: str) -> bytes:
    """Return a picture 0..1 (row, column, channel or none) as PNG. name: of its file."""
    return _png(_codes(shown), name)


def _png(codes: Codes, name: str) -> bytes:
    done, data = cv2.imencode(".png", codes[..., ::-1] if codes.ndim == 3 else codes)
    if not done:
        raise UnreadableFileError("The picture could not be drawn.", code="no-still", where=name)
    return data.tobytes()


def smaller(plane: Plane, size: tuple[int, int]) -> Plane:
    """Return a plane made smaller, each sample the mean of those that it stands for."""
    made = cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    return made.astype(np.uint8) if plane.dtype == np.uint8 else made.astype(np.uint16)


def _shown_size(frame: Frame, aspect: tuple[int, int], most: tuple[int, int]) -> tuple[int, int]:
    """Return width and height in the shape that the aspect gives, only ever smaller down it."""
    width, height = frame.raster
    shown_width = width * aspect[0] / aspect[1]
    scale = min(most[0] / shown_width, most[1] / height, 1.0)
    return max(round(shown_width * scale), 1), max(round(height * scale), 1)


def _is_smaller(size: tuple[int, int], frame: Frame) -> bool:
    width, height = frame.raster
    return size != (width, height) and size[0] <= width and size[1] <= height


def sized_signals(
    frame: Frame, reading: Reading, aspect: tuple[int, int], most: tuple[int, int]
) -> Real:
    """Return the signals at the shown shape; only ever made smaller down the frame."""
    size = _shown_size(frame, aspect, most)
    if _is_smaller(size, frame):
        # Samples first, then colours: a matrix is linear, and there are far fewer of them.
        luma, cb, cr = (smaller(p, size) for p in (frame.luma, frame.cb, frame.cr))
        return rgb_signals(replace(frame, luma=luma, cb=cb, cr=cr), reading)
    signals = rgb_signals(frame, reading)
    if size == frame.raster:
        return signals
    return np.asarray(cv2.resize(signals, size, interpolation=cv2.INTER_CUBIC), dtype=np.float32)
