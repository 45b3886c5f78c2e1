"""A proxy: a few seconds of both files, small and in step, for looking at while it plays.

The master's picture stands over the export's in every frame, so that both always show one moment.
"""

from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
import numpy.typing as npt
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..measured import Source
from ..measured.decoded.frames import Frame, FrameReader
from .stills import shown_codes

WIDTH, MOST_HEIGHT = 1280, 1280
RATE_MOST = 12.5
"""Frames a second at most: more would take long to make, and look no different."""
SECONDS = 4
OPTIONS = {"preset": "ultrafast", "tune": "zerolatency", "crf": "20", "g": "6"}
"""Key frames lie close, for playing backwards is seeking."""

Bytes = npt.NDArray[np.uint8]


def proxy_step(rate: Fraction) -> int:
    """Return how many frames of the file there are to one of the proxy."""
    return max(-(-rate.numerator // int(rate.denominator * RATE_MOST)), 1)


def proxy_pairs(
    pairs: Sequence[tuple[int, int]], first: int, rate: Fraction
) -> list[tuple[int, int]]:
    """Return the pairs of frames that a proxy shows which begins at the export's frame `first`.

    pairs: master's and export's frame, of every frame that has a counterpart, rising. Picture n is
    of frame first + n · proxy_step, whatever is missing: one without a counterpart is the nearest
    before it that has one, so that a player knows by the time alone which frame it shows.
    """
    step = proxy_step(rate)
    wanted = range(first, pairs[-1][1] + 1 if pairs else first, step)
    frames = [pair[1] for pair in pairs]
    places = (max(bisect_right(frames, frame) - 1, 0) for frame in wanted)
    return [pairs[place] for place in places][: round(SECONDS * rate / step)]


def write_proxy(
    path: Path,
    sources: tuple[Source, Source],
    pairs: Sequence[tuple[int, int]],
    *,
    display: str,
    rate: Fraction,
) -> int:
    """Write master over export of these rising pairs of frames as H.264, and return how many.

    display: a key of screen.RENDERERS. rate: of the proxy. Raises UnreadableFileError.
    """
    return write_pictures(path, _one_over_other(sources, pairs, display), rate, OPTIONS)


def write_pictures(
    path: Path, pictures: Iterator[Bytes], rate: Fraction, options: Mapping[str, str]
) -> int:
    """Write pictures (row, column, R'G'B') of one size as H.264, and return how many.

    Sides are even. options: the encoder's own.
    """
    written = 0
    container = av.open(str(path), "w", format="mp4", options={"movflags": "+faststart"})
    stream: VideoStream | None = None
    for shown in pictures:
        if stream is None:
            added = container.add_stream("libx264", rate, dict(options))
            assert isinstance(added, VideoStream)  # noqa: S101  (a video codec)
            stream = added
            stream.height, stream.width = shown.shape[:2]
            stream.pix_fmt = "yuv420p"
        picture = VideoFrame.from_ndarray(shown, format="rgb24")
        picture.pts = written
        container.mux(stream.encode(picture))
        written += 1
    if stream is not None:
        container.mux(stream.encode())
    container.close()
    return written


def _one_over_other(
    sources: tuple[Source, Source], pairs: Sequence[tuple[int, int]], display: str
) -> Iterator[Bytes]:
    with ExitStack() as stack:
        readers = [
            stack.enter_context(FrameReader(source.path, source.reading.rate)) for source in sources
        ]
        frames = [
            reader.read(sorted({pair[side] for pair in pairs}))
            for side, reader in enumerate(readers)
        ]
        held: list[Frame | None] = [None, None]
        for pair in pairs:
            for side in (0, 1):
                while True:
                    one = held[side]
                    if one is not None and one.number >= pair[side]:
                        break
                    held[side] = next(frames[side], None)
                    if held[side] is None:
                        return
            yield np.concatenate(
                [
                    _drawn(one, source, display)
                    for one, source in zip(held, sources, strict=True)
                    if one is not None
                ]
            )


def _drawn(frame: Frame, source: Source, display: str) -> Bytes:
    """Return one picture at the proxy's size, both files' the same."""
    width, height = frame.raster
    high = min(round(WIDTH * height / width / 2) * 2, MOST_HEIGHT)
    codes = shown_codes(frame, source.reading, display, (1, 1), (WIDTH, high))
    if codes.shape[:2] != (high, WIDTH):
        codes = np.asarray(cv2.resize(codes, (WIDTH, high)), np.uint8)
    return np.asarray(codes)
