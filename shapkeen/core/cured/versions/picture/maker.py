"""One frame of a version: the master's decoded planes in, the version's planes out."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from ....colour.coding import Coding
from ....colour.matrix import rgb_from_ycbcr
from ....colour.packed_table import unpacked
from ....colour.quantisation import chroma_zero_span, luma_offset_span
from ....geometry.framing import Area, Size
from ....measured.alignment.expected import folds
from ....measured.decoded.frames import Frame, Plane
from .conversion import Conversion, Fold, conversion_between, ycbcr
from .grids import LUMA, Lattice, chroma_lattice, resampler_between, slices_of
from .resampling import Resampler, Rounding
from .sampling import Real
from .through_table import through_table

PLANES = ("luma", "cb", "cr")


@dataclass(frozen=True, slots=True, kw_only=True)
class Samples:
    """How a picture is stored: raster, bits, chroma sampling, where chroma lies, what codes mean.

    location: H.273 Chroma420SampleLocType; of 4:2:0 alone.
    """

    raster: Size
    depth: int
    chroma: str
    location: int
    coding: Coding

    def scale_of(self, plane: str) -> tuple[int, int]:
        """Return the code of 0 and how many codes lie up to 1 (chroma: from -½ to ½)."""
        said = luma_offset_span if plane == "luma" else chroma_zero_span
        return said(depth=self.depth, full_range=self.coding.full_range)

    def lattice_of(self, plane: str) -> Lattice:
        """Return where a plane's samples lie."""
        return LUMA if plane == "luma" else chroma_lattice(self.chroma, self.location)


@dataclass(frozen=True, slots=True)
class Piece:
    """A part of the master's picture, and where it lies in the version's."""

    part: Area
    place: Area


@dataclass(frozen=True, kw_only=True)
class Way:
    """How every frame is made. linear: scaled in light in place of coded signals."""

    own: Samples
    goal: Samples
    fold: Fold = field(default_factory=Fold)
    linear: bool = False

    @property
    def converts(self) -> bool:
        """Return whether frames go through R'G'B': for other light or colours, or to be scaled."""
        own, goal = self.own.coding, self.goal.coding
        told = (own.transfer, own.primaries, own.matrix) != (
            goal.transfer,
            goal.primaries,
            goal.matrix,
        )
        return told or self.linear or bool(goal.table)

    @property
    def folds(self) -> bool:
        """Return whether HDR becomes SDR."""
        return folds(self.own.coding, self.goal.coding)

    @cached_property
    def conversion(self) -> Conversion:
        """Return the tabulated conversion."""
        return conversion_between(self.own.coding, self.goal.coding, self.fold)

    def is_same(self, pieces: Sequence[Piece]) -> bool:
        """Return whether frames come out as they went in, sample for sample."""
        whole = Area(0, 0, *self.own.raster)
        return (
            not self.converts and self.own == self.goal and tuple(pieces) == (Piece(whole, whole),)
        )


def make_planes(frame: Frame, way: Way, pieces: Sequence[Piece]) -> tuple[Plane, Plane, Plane]:
    """Return luma, cb and cr of a version's frame; what no piece covers is black.

    Raises ValueError where a piece leaves its picture.
    """
    for piece in pieces:
        if not (piece.part.lies_in(way.own.raster) and piece.place.lies_in(way.goal.raster)):
            raise ValueError(f"{piece} leaves its picture")
    out = _black(way.goal)
    for piece in pieces:
        if way.converts:
            _convert(frame, way, piece, out)
        else:
            _scale(frame, way, piece, out)
    return out["luma"], out["cb"], out["cr"]


def _black(goal: Samples) -> dict[str, npt.NDArray[Any]]:
    kind = np.uint8 if goal.depth == 8 else np.uint16
    whole = Area(0, 0, *goal.raster)
    made = {}
    for plane in PLANES:
        rows, columns = slices_of(goal.lattice_of(plane), whole)
        made[plane] = np.full((rows.stop, columns.stop), goal.scale_of(plane)[0], kind)
    return made


def _scale(frame: Frame, way: Way, piece: Piece, out: dict[str, npt.NDArray[Any]]) -> None:
    """Make a piece in its own coding: codes are scaled, then fitted to range and depth."""
    for plane in PLANES:
        given = getattr(frame, plane)
        source, goal = way.own.lattice_of(plane), way.goal.lattice_of(plane)
        (zero, span), (there, wide) = way.own.scale_of(plane), way.goal.scale_of(plane)
        scale = wide / span
        by = Rounding(scale, there - zero * scale, way.goal.depth)
        scaler = resampler_between(source, piece.part, goal, piece.place)
        scaler.round_into(out[plane][slices_of(goal, piece.place)], given, by)


def _convert(frame: Frame, way: Way, piece: Piece, out: dict[str, npt.NDArray[Any]]) -> None:
    """Make a piece of other light or colours: through R'G'B' at the master's size."""
    here, there = Area(0, 0, *piece.part.size), Area(0, 0, *piece.place.size)
    scaler = resampler_between(LUMA, here, LUMA, there)
    signals = _signals(frame, way, piece.part)
    if way.goal.coding.table:
        rgb = rgb_from_ycbcr(way.own.coding.matrix).astype(np.float32)
        signal = _each(through_table(signals, rgb, unpacked(way.goal.coding.table)), scaler)
    elif way.linear:
        signal = way.conversion.close(_each(way.conversion.light(signals), scaler))
    else:
        signal = _each(way.conversion.close(way.conversion.light(signals)), scaler)
    made = ycbcr(signal, way.goal.coding.matrix)
    for plane, values in zip(PLANES, made, strict=True):
        lattice = way.goal.lattice_of(plane)
        zero, span = way.goal.scale_of(plane)
        last = resampler_between(LUMA, there, lattice, piece.place)
        last.round_into(
            out[plane][slices_of(lattice, piece.place)],
            values,
            Rounding(span, zero, way.goal.depth),
        )


def _each(planes: Real, scaler: Resampler) -> Real:
    if scaler.is_plain:
        return planes
    return np.stack([scaler.apply(plane) for plane in planes])


def _signals(frame: Frame, way: Way, part: Area) -> Real:
    """Return Y', Cb and Cr (3, row, column) of a part, all of luma's size, as signals."""
    here = Area(0, 0, *part.size)
    out = np.empty((3, part.height, part.width), np.float32)
    for plane, made in zip(PLANES, out, strict=True):
        lattice = way.own.lattice_of(plane)
        values = resampler_between(lattice, part, LUMA, here).apply(getattr(frame, plane))
        zero, span = way.own.scale_of(plane)
        np.multiply(values, np.float32(1 / span), out=made)
        np.subtract(made, np.float32(zero / span), out=made)
    return out
