"""A picture on its way through a service: read as it was taken for, turned, cut and scaled."""

from dataclasses import dataclass, field, replace
from functools import cached_property

import cv2
import numpy as np

from ...colour.codepoints import HDR_TRANSFERS
from ...colour.coding import Coding
from ...colour.cube_file import read_cube
from ...colour.packed_table import packed
from ...cured.versions.picture.conversion import Fold
from ...cured.versions.picture.maker import Piece, Samples, Way, make_planes
from ...geometry.framing import Area
from ...measured import Reading
from ...measured.decoded.frames import Frame, Plane
from ...measured.model import coding_of
from ..stand_in import PictureChanges, StandIn
from .renditions import Plan

Planes = tuple[Plane, Plane, Plane]
BT709 = Coding(transfer=1, primaries=1, matrix=1, full_range=False)
SDR_DEPTH, HDR_DEPTH, REFERENCE_DEPTH = 8, 10, 10


def goal_coding(stand_in: StandIn, plan: Plan, *, own: Coding) -> Coding:
    """Return what a rendition's samples mean. own: the picture's, as the service takes it."""
    if plan.branch == "hdr" and stand_in.hdr:
        return Coding(transfer=stand_in.hdr.transfer, primaries=9, matrix=9, full_range=False)
    if own.transfer in HDR_TRANSFERS and stand_in.sdr.table:
        return replace(BT709, table=packed(read_cube(stand_in.sdr.table)))
    return BT709


def fold_of(stand_in: StandIn) -> Fold:
    """Return how a service turns HDR into SDR."""
    sdr = stand_in.sdr
    return Fold(method=sdr.tone_map, peak_nits=sdr.peak_nits, white_nits=sdr.white_nits)


def known(coding: Coding) -> Coding:
    """Return a coding that can be calculated with: what nobody says is BT.709's."""
    made = replace(coding, transfer=coding.transfer or 1)
    if made.is_known:
        return made
    alone = (replace(made, primaries=1), replace(made, matrix=1))
    return next((one for one in alone if one.is_known), replace(made, primaries=1, matrix=1))


@dataclass(frozen=True, kw_only=True)
class Passage:
    """The way of every frame: decoded frame in, the rendition's planes out.

    reading: how samples are read. turn: clockwise, in degrees. goal: of the samples that come out.
    changes: what is done to them; none for the picture as it should come out.
    """

    reading: Reading
    turn: int
    part: Area
    raster: tuple[int, int]
    goal: Coding
    depth: int
    fold: Fold = field(default_factory=Fold)
    changes: PictureChanges = field(default_factory=PictureChanges)

    def planes(self, frame: Frame) -> Planes:
        """Return luma, cb and cr, 4:2:0."""
        upright = turned(frame, self.turn)
        made = make_planes(upright, self._way(upright), (self._piece,))
        return changed(made, self.depth, self.changes)

    @cached_property
    def _piece(self) -> Piece:
        return Piece(self.part, Area(0, 0, *self.raster))

    @cached_property
    def _ways(self) -> dict[Samples, Way]:
        return {}

    def _way(self, frame: Frame) -> Way:
        own = self._own(frame)
        if own not in self._ways:
            goal = Samples(
                raster=self.raster, depth=self.depth, chroma="4:2:0", location=0, coding=self.goal
            )
            self._ways[own] = Way(own=own, goal=goal, fold=self.fold)
        return self._ways[own]

    def _own(self, frame: Frame) -> Samples:
        return Samples(
            raster=frame.raster,
            depth=frame.depth,
            chroma=sampling_of(frame),
            location=0,
            coding=known(coding_of(self.reading)),
        )


def sampling_of(frame: Frame) -> str:
    """Return the chroma sampling of a decoded frame."""
    (height, width), (down, across) = frame.luma.shape, frame.cb.shape
    if (down, across) == (height, width):
        return "4:4:4"
    return "4:2:2" if down == height else "4:2:0"


def turned(frame: Frame, degrees: int) -> Frame:
    """Return a frame turned clockwise by 0, 90, 180 or 270 degrees."""
    if degrees % 360 == 0:
        return frame
    cb, cr = frame.cb, frame.cr
    if degrees % 180 and sampling_of(frame) == "4:2:2":
        # Halved across and not down would come out halved down: no format of ours holds that.
        columns = np.arange(frame.raster[0]) // 2
        cb, cr = cb[:, columns], cr[:, columns]
    luma, cb, cr = (_turned(plane, degrees) for plane in (frame.luma, cb, cr))
    return replace(frame, luma=luma, cb=cb, cr=cr)


def _turned(plane: Plane, degrees: int) -> Plane:
    if degrees % 360 == 180:
        return plane[::-1, ::-1].copy()
    return (plane.T[:, ::-1] if degrees % 360 == 90 else plane.T[::-1]).copy()


def changed(planes: Planes, depth: int, changes: PictureChanges) -> Planes:
    """Return planes denoised, then sharpened, as a service does it; luma alone is touched.

    Denoised by the bilateral filter (C. Tomasi and R. Manduchi, "Bilateral filtering for gray and
    color images", ICCV 1998), sharpened by an unsharp mask of sigma 1.
    """
    if not changes.denoise and not changes.sharpen:
        return planes
    unit = float(1 << (depth - 8))
    luma = planes[0].astype(np.float32)
    if changes.denoise:
        luma = np.asarray(cv2.bilateralFilter(luma, 5, changes.denoise * unit, 1.5))
    if changes.sharpen:
        soft = cv2.GaussianBlur(luma, (0, 0), 1.0)
        luma = np.asarray(luma + np.float32(changes.sharpen) * (luma - soft))
    top = (1 << depth) - 1
    made = np.clip(luma + np.float32(0.5), 0, top).astype(planes[0].dtype)
    return made, planes[1], planes[2]
