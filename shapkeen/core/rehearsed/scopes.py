"""Scopes of one moment: waveform and vector of both pictures, and delivered code by expected.

Of whole pictures or of an area, at the files' own samples; every sample counts.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from ..colour.coding import Coding
from ..measured.decoded.frames import Frame
from ..measured.decoded.grid import code_scale, reduce_frame
from ..measured.decoded.metrics import PATCH
from ..measured.model import VECTOR_BINS, coding_of
from ..measured.pair_pass.sampled_pair import wave_counts
from .moment import Moment
from .probe import Area, part_of, place_in_export

CODES = 1024
"""Of the 10-bit scale, that every depth is told on."""
TONE_BINS = 64
Counts = npt.NDArray[np.int64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Scope:
    """One picture. wave: WAVE_LEVELS rows from code 0 up, WAVE_COLUMNS from the left.

    vector: VECTOR_BINS², rows = Cr from its lowest code. samples: that were counted. coding: how
    its codes are read.
    """

    wave: Counts
    vector: Counts
    samples: int
    coding: Coding


@dataclass(frozen=True, slots=True, kw_only=True)
class ScopePair:
    """Both pictures of a moment, and how codes changed.

    tone: TONE_BINS², rows = delivered 10-bit luma from 0 up, columns = expected; None where the
    area holds nothing that both show.
    """

    master: Scope
    export: Scope
    tone: Counts | None


WHOLE = Area(0.0, 0.0, 1.0, 1.0)


def scopes_of(moment: Moment, area: Area | None = None) -> ScopePair:
    """Return the scopes of an area of the master and the same place in the export; else of all."""
    there = place_in_export(area, moment.picture_map) if area else WHOLE
    return ScopePair(
        master=_scope(moment.master, area or WHOLE, coding_of(moment.master_reading)),
        export=_scope(moment.export, there, coding_of(moment.export_reading)),
        tone=_tone(moment, there),
    )


def _scope(frame: Frame, area: Area, coding: Coding) -> Scope:
    part, _ = part_of(frame, area)
    scale = code_scale(frame.depth, full_range=coding.full_range)
    cb = _bin(part.cb * scale, VECTOR_BINS)
    return Scope(
        wave=wave_counts((part.luma * scale).astype(np.float32)),
        vector=_counted(part.cr * scale, cb, VECTOR_BINS, VECTOR_BINS),
        samples=int(part.luma.size),
        coding=coding,
    )


def _bin(codes: npt.NDArray[np.floating[Any]], bins: int) -> Counts:
    return np.asarray(np.clip(codes * (bins / CODES), 0, bins - 1).astype(np.int64))


def _counted(
    codes: npt.NDArray[np.floating[Any]], columns: npt.NDArray[np.int64], rows: int, wide: int
) -> Counts:
    """Return how often a code stands in a column (row by code from 0 up, column)."""
    places = _bin(codes, rows) * wide + columns
    return np.bincount(places.ravel(), minlength=rows * wide).reshape(rows, wide)


def _tone(moment: Moment, there: Area) -> Counts | None:
    full_range = moment.master_reading.full_range
    small = (reduce_frame(f, full_range=full_range) for f in (moment.master, moment.export))
    expected, delivered = moment.picture_map.planes(*small, step=2 * PATCH)
    shared = moment.picture_map.shared
    height, width = expected["luma"].shape
    rows = _inside(there.top, there.height, (shared.top, shared.height), height)
    columns = _inside(there.left, there.width, (shared.left, shared.width), width)
    across = _bin(np.asarray(expected["luma"][rows, columns], dtype=np.float64), TONE_BINS)
    if not across.size:
        return None
    down = np.asarray(delivered["luma"][rows, columns], dtype=np.float64)
    return _counted(down, across, TONE_BINS, TONE_BINS)


def _inside(first: float, size: float, shared: tuple[float, float], count: int) -> slice:
    """Return which of `count` samples over the shared part lie in a span of the picture."""
    start, end = ((at - shared[0]) / shared[1] * count for at in (first, first + size))
    return slice(max(int(start), 0), max(min(round(end), count), 0))
