"""Both pictures of a rehearsal playing in step on one screen, every frame of it at hand at once.

What was sent stands over what is received. Every frame is coded whole, so that any of them is
reached by a seek of the player's.
"""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from ...measured import Reading
from ...measured.decoded.frames import Frame
from ..proxy import Bytes, write_pictures
from .fitting import Layout
from .screens import Screen
from .showing import View, shown

MOST_SIDE = 960
OPTIONS = {"preset": "ultrafast", "tune": "fastdecode", "crf": "18", "g": "1"}


@dataclass(frozen=True, slots=True)
class Side:
    """One of the two: its decoded frames, and how they are taken."""

    frames: Iterator[Frame]
    reading: Reading
    layout: Layout


def write_pair(
    path: Path, sides: tuple[Side, Side], screen: Screen, rate: Fraction, view: View | None = None
) -> int:
    """Write both sides, one over the other, as long as both have frames; return how many."""
    return write_pictures(path, _both(sides, screen, view), rate, OPTIONS)


def _both(sides: tuple[Side, Side], screen: Screen, view: View | None) -> Iterator[Bytes]:
    # The libraries that draw let go of the interpreter: two threads, two cores.
    with ThreadPoolExecutor(2) as pool:
        for pair in zip(*(side.frames for side in sides), strict=False):
            asked = [
                pool.submit(_drawn, frame, side, screen, view)
                for frame, side in zip(pair, sides, strict=True)
            ]
            yield np.concatenate([one.result() for one in asked])


def _drawn(frame: Frame, side: Side, screen: Screen, view: View | None) -> Bytes:
    picture = shown(frame, side.reading, screen, side.layout, view, most=MOST_SIDE)
    even = picture[: picture.shape[0] // 2 * 2, : picture.shape[1] // 2 * 2]
    return np.asarray(even * np.float32(255) + np.float32(0.5)).astype(np.uint8)
