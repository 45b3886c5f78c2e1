"""Parallax of one frame as a picture, to be drawn over it: what stands in front of the screen."""

import numpy as np

from ..geometry.packing import way_of
from ..measured import Source
from ..measured.alignment.layout.cells import cells_of
from ..measured.decoded.grid import code_scale
from ..measured.stereo.parallax import match_eyes
from .stills import frame_at, png_of

UNKNOWN, MIDDLE, STEPS = 0, 128, 10
"""Code of what is not matched, of no parallax, and codes to 1 % of the width."""


def render_parallax(source: Source, number: int, stereo: str) -> bytes:
    """Return a frame's parallax as grey PNG of the left eye's places, 640 × 360.

    stereo: how the eyes are packed. All UNKNOWN where nothing is matched. Raises
    UnreadableFileError where the frame cannot be decoded.
    """
    told = way_of(stereo)
    frame = frame_at(source, number)
    scale = np.float32(code_scale(frame.depth, full_range=source.reading.full_range))
    cells = cells_of(frame.luma.astype(np.float32) * scale, told[0]) if told else ()
    codes = np.zeros((360, 640), np.float64)
    if told and len(cells) == 2:
        left, right = cells if told[1] else cells[::-1]
        found = match_eyes(left, right)
        if found is not None:
            percent = found.away / found.away.shape[1] * 100
            drawn = np.clip(np.round(percent * STEPS) + MIDDLE, 1, 255)
            codes = np.where(found.known, drawn, UNKNOWN)
    return png_of(np.asarray(codes / 255, np.float32), source.path.name)
