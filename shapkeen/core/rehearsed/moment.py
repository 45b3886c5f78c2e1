"""One moment of both pictures, kept on disk so that it is decoded once: codes as they are.

Difference pictures (heat.py) and the probe (probe.py) read it. A file holds the planes of both.
"""

from dataclasses import dataclass
from pathlib import Path

import numpy as np

from ..measured import Reading, Source
from ..measured.frames import Frame
from .screen import frame_at

PLANES = ("luma", "cb", "cr")


@dataclass(frozen=True, slots=True)
class Moment:
    """Both pictures of one moment, and how each is to be read."""

    master: Frame
    export: Frame
    master_reading: Reading
    export_reading: Reading


def save_moment(path: Path, master: Source, export: Source, numbers: tuple[int, int]) -> Moment:
    """Decode a frame of each file, keep both in `path`, and return them."""
    frames = [frame_at(s, n) for s, n in zip((master, export), numbers, strict=True)]
    kept = {
        f"{side}_{name}": getattr(frame, name)
        for side, frame in zip(("master", "export"), frames, strict=True)
        for name in PLANES
    }
    depths = np.array([frame.depth for frame in frames])
    with path.open("wb") as file:
        np.savez(file, allow_pickle=False, depths=depths, **kept)
    return Moment(frames[0], frames[1], master.reading, export.reading)


def load_moment(path: Path, master: Reading, export: Reading) -> Moment:
    """Return what save_moment kept; raises OSError, ValueError or KeyError for another file."""
    with np.load(path, allow_pickle=False) as kept:
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
    return Moment(frames[0], frames[1], master, export)
