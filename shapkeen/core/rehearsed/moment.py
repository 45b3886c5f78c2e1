"""One moment of both pictures, kept on disk so that it is decoded once: codes as they are.

Difference pictures (heat.py) and the probe (probe.py) read it. A file holds the planes of both.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import IO

import numpy as np

from ..colour.coding import Coding
from ..measured import Reading, Source
from ..measured.alignment.picture_map import PictureMap
from ..measured.decoded.frames import Frame
from ..measured.decoded.grid import Rect
from ..measured.model import coding_of
from .stills import frame_at

PLANES = ("luma", "cb", "cr")


@dataclass(frozen=True, slots=True)
class Moment:
    """Both pictures of one moment, how each is to be read, and how they lie over each other."""

    master: Frame
    export: Frame
    master_reading: Reading
    export_reading: Reading
    picture_map: PictureMap


def save_moment(
    path: Path, master: Source, export: Source, numbers: tuple[int, int], picture_map: PictureMap
) -> Moment:
    """Decode a frame of each file, keep both in `path`, and return them."""
    frames = [frame_at(s, n) for s, n in zip((master, export), numbers, strict=True)]
    kept = {
        f"{side}_{name}": getattr(frame, name)
        for side, frame in zip(("master", "export"), frames, strict=True)
        for name in PLANES
    }
    depths = np.array([frame.depth for frame in frames])
    codings = np.array([_numbers(source.reading) for source in (master, export)])
    rect = picture_map.rect
    kept["rect"] = np.array([rect.left, rect.top, rect.width, rect.height], np.float64)
    goal = picture_map.goal
    goals = (goal.transfer, goal.primaries, goal.matrix, int(goal.full_range))
    kept["picture_map"] = np.array([picture_map.turn, int(picture_map.mirrored), *goals], np.int64)
    with path.open("wb") as file:
        np.savez(file, allow_pickle=False, depths=depths, codings=codings, **kept)
    return Moment(frames[0], frames[1], master.reading, export.reading, picture_map)


def _numbers(reading: Reading) -> tuple[int, ...]:
    """Return how samples are meant as whole numbers; what nobody says is 0."""
    codes = (reading.transfer, reading.primaries, reading.matrix)
    return (*(code or 0 for code in codes), int(reading.full_range))


def _reading(numbers: Sequence[int]) -> Reading:
    transfer, primaries, matrix, full_range = (int(number) for number in numbers)
    return Reading(
        full_range=bool(full_range),
        transfer=transfer or None,
        matrix=matrix or None,
        primaries=primaries or None,
        rate=Fraction(1),  # one frame has none
        frame_count=1,
    )


def load_moment(file: IO[bytes] | Path) -> Moment:
    """Return what save_moment kept; raises OSError, ValueError or KeyError for another file."""
    with np.load(file, allow_pickle=False) as kept:
        frames = [
            Frame(
                number=0,
                depth=int(depth),
                luma=kept[f"{side}_luma"],
                cb=kept[f"{side}_cb"],
                cr=kept[f"{side}_cr"],
            )
            for side, depth in zip(("master", "export"), kept["depths"], strict=True)
        ]
        readings = [_reading(numbers) for numbers in kept["codings"]]
        turn, mirrored, transfer, primaries, matrix, full = (int(v) for v in kept["picture_map"])
        rect = Rect(*(float(v) for v in kept["rect"]))
    goal = Coding(transfer=transfer, primaries=primaries, matrix=matrix, full_range=bool(full))
    picture_map = PictureMap(rect, turn, bool(mirrored), coding_of(readings[0]), goal)
    return Moment(frames[0], frames[1], readings[0], readings[1], picture_map)
