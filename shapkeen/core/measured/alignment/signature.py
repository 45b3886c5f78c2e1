"""A frame made small: what every frame of both files is reduced to, to be held against each other.

Whole factors where sides allow, so that a mean is exact and two files of one raster share one grid.
"""

import os
from collections.abc import Sequence
from dataclasses import dataclass, field
from tempfile import SpooledTemporaryFile

import cv2
import numpy as np
import numpy.typing as npt

from ..decoded.frames import Frame, Plane, whole_rows
from ..decoded.grid import Real, Rect, Reduced, code_scale, sample
from ..decoded.loops import mean_blocks
from .place.turning import turned

LEAST_WIDTH = 640
"""Small pictures are at least this wide where the file's is, and less than twice as wide."""
SIGNATURE_SIZE = (32, 18)
SHAPE = SIGNATURE_SIZE[::-1]
STEPS = 32
"""Of a 10-bit code: what rounding adds is far below what coding leaves."""
ROW_BYTES = 2 * SHAPE[0] * SHAPE[1]
MOST_HELD = 4 << 20
"""Bytes of a file's signatures that are held in memory: two minutes of film."""
Signature = npt.NDArray[np.float32]
"""A frame's signature: means of 18 × 32 places, 10-bit codes, by which moments are told apart."""
Signatures = npt.NDArray[np.float32]
Kept = npt.NDArray[np.uint16]
Numbers = npt.NDArray[np.int64]


def small_picture(frame: Frame, *, full_range: bool) -> Reduced:
    """Return a frame's planes in 10-bit codes, each sample the mean of a square of the frame's."""
    side = max(frame.luma.shape[1] // LEAST_WIDTH, 1)
    scale = code_scale(frame.depth, full_range=full_range)
    return Reduced(*(_reduced(p, side, scale) for p in (frame.luma, frame.cb, frame.cr)))


def _reduced(plane: Plane, side: int, scale: float) -> Real:
    height, width = plane.shape
    out = np.zeros((max(height // side, 1), max(width // side, 1)), np.float32)
    if side == 1 or min(height, width) < side:
        return np.asarray(plane[: out.shape[0], : out.shape[1]] * np.float32(scale))
    if height % side or width % side:
        # Blocks would leave a line or two out, and all that is measured of place would be off.
        values = plane.astype(np.float32) * np.float32(scale)
        drawn = cv2.resize(values, out.shape[::-1], interpolation=cv2.INTER_AREA)
        return np.asarray(drawn, np.float32)
    mean_blocks(whole_rows(plane), width, side, scale, out)
    return out


@dataclass(frozen=True, slots=True)
class Part:
    """The part of a file's picture that the other shows too, and how it is turned there."""

    rect: Rect = field(default_factory=Rect)
    turn: int = 0
    mirrored: bool = False


def signature_of(small: Reduced, part: Part) -> Signature:
    """Return the signature of a small picture: of the part that the other file shows too."""
    luma = small.luma
    if part.turn or part.mirrored:
        luma = turned(luma, part.turn, mirrored=part.mirrored)
    return np.asarray(sample(luma, part.rect, SIGNATURE_SIZE), np.float32)


def kept(signatures: Sequence[Signature] | Signatures) -> Kept:
    """Return signatures as they wait for each other: whole STEPS of a code, half the memory."""
    steps = np.round(np.asarray(signatures) * STEPS)
    return np.clip(steps, 0, np.iinfo(np.uint16).max).astype(np.uint16)


class SignatureSeries:
    """The signatures of one file's frames, in order; on disk where they are many.

    A film's would take hundreds of megabytes, of which a few are looked at
    at a time. Not to be read by two threads at once.
    """

    def __init__(self) -> None:
        """Start without any."""
        # Open for as long as the series lives; it has no name, so nothing is left behind.
        self._file = SpooledTemporaryFile(max_size=MOST_HELD)  # noqa: SIM115
        self._numbers: list[Numbers] = []
        self._order: tuple[Numbers, Numbers] | None = None

    @classmethod
    def of(cls, numbers: Numbers, signatures: Signatures) -> "SignatureSeries":
        """Return the series of some frames (n, 18, 32)."""
        made = cls()
        made.add(numbers, kept(signatures))
        return made

    def add(self, numbers: Numbers, signatures: Kept) -> None:
        """Take in a part, as kept() makes it, of any place; it is not held on to."""
        self._file.seek(0, os.SEEK_END)
        self._file.write(np.ascontiguousarray(signatures, np.uint16).tobytes())
        self._numbers.append(np.asarray(numbers, np.int64))
        self._order = None

    @property
    def numbers(self) -> Numbers:
        """Return the frames' numbers (n,)."""
        return self._ordered()[0]

    def _ordered(self) -> tuple[Numbers, Numbers]:
        """Return the numbers in order, and where the row of each lies."""
        if self._order is None:
            given = np.concatenate([np.zeros(0, np.int64), *self._numbers])
            places = np.argsort(given, kind="stable")
            self._order = given[places], places
        return self._order

    def __len__(self) -> int:
        return len(self.numbers)

    def rows(self, wanted: Numbers) -> Signatures:
        """Return some rows (k, 18, 32), by their places from 0."""
        places = self._ordered()[1][wanted]
        found = np.zeros((len(places), *SHAPE), np.uint16)
        # Read in runs: rows that follow each other mostly lie behind each other.
        ends = np.flatnonzero(np.diff(places) != 1) + 1
        for run in np.split(np.arange(len(places)), ends):
            if len(run):
                self._file.seek(int(places[run[0]]) * ROW_BYTES)
                data = self._file.read(len(run) * ROW_BYTES)
                found[run] = np.frombuffer(data, np.uint16).reshape(-1, *SHAPE)
        return found.astype(np.float32) / np.float32(STEPS)
