"""Reading a stretch of a file's first sound track as samples, in step with its picture."""

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from sys import maxsize
from typing import Any

import av
import numpy as np
import numpy.typing as npt

Samples = npt.NDArray[np.float32]
"""(channel, time), 1.0 = full scale."""
Part = tuple[Fraction, Fraction]
"""Seconds after the picture's first frame: from, to."""
Stretch = tuple[Fraction, Fraction | None]
"""The same; None: as long as the track lasts."""
JITTER_S = 0.005
"""Times of whole milliseconds, and those of pieces that are rounded twice."""


def picture_start(container: Any) -> Fraction:
    """Return the time of the picture's first frame, which parts are counted from."""
    picture = container.streams.video[0]
    return Fraction(picture.start_time or 0) * (picture.time_base or Fraction(1))


def read_sound(
    container: Any, part: Stretch, *, rate: int | None = None, layout: str | None = None
) -> Iterator[Samples]:
    """Yield the samples that fill a part exactly; what the track does not have is silence.

    container: open, with a sound track. rate: samples a second; layout: of channels, which are
    mixed down to it as ITU-R BS.775 has it. None for the track's own.
    """
    source = container.streams.audio[0]
    rate = rate or source.rate
    begin = part[0] + picture_start(container)
    total = maxsize if part[1] is None else round((part[1] - part[0]) * rate)
    layout = layout or source.layout.name
    resampler = av.AudioResampler(format="fltp", layout=layout, rate=rate)
    channels, due = len(av.AudioLayout(layout).channels), 0
    if part[0] > 0:
        container.seek(max(int((begin - 1) / source.time_base), 0), stream=source, backward=True)
    for frame in container.decode(source):
        for piece in resampler.resample(frame):
            begins = round(((piece.pts or 0) * (piece.time_base or 0) - begin) * rate)
            if abs(begins - due) <= JITTER_S * rate:
                begins = due  # some wrappers round times: that is no hole
            if begins > due:  # a hole: silence, so that what follows stays in step
                yield np.zeros((channels, min(begins, total) - due), np.float32)
                due = min(begins, total)
            given = np.asarray(piece.to_ndarray(), np.float32)
            samples = given[:, max(due - begins, 0) : max(total - begins, 0)]
            if samples.shape[1]:
                yield samples
                due += samples.shape[1]
        if due >= total:
            return
    if due < total and part[1] is not None:
        yield np.zeros((channels, total - due), np.float32)


def has_sound(path: Path) -> bool:
    """Return whether a file has a sound track that the libraries know."""
    with av.open(str(path), metadata_errors="replace") as container:
        return bool(container.streams.audio)
