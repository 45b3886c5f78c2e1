"""Moments of spheres and of two eyes: which frames are looked at.

In every second the first frame that both files have, and the first at which the scene changes. A
span measures what may be one of them; which are is settled when all are put together, so that how
the files were cut changes nothing.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np

from ...geometry.packing import FRAME_SEQUENTIAL, MONO, way_of
from ..alignment.layout.stated_packing import (
    packing_in_use,
    packings_of,
    shifts_by_eye,
    stated_packing,
)
from ..alignment.layout.stereo_layout import StereoLayout
from ..alignment.picture_map import PictureMap
from ..alignment.signature import Signature, SignatureSeries
from ..alignment.time.rows import blocks
from ..decoded.frames import Frame
from ..decoded.grid import Reduced, reduce_frame
from ..model import Reading
from ..sphere.moment import SphereView, measure_sphere_view
from ..stereo.moment import Sharing, Shown, StereoView, measure_stereo_view

JUMP_CODES = 48.0
"""Mean change of a signature from one frame to the next, in 10-bit codes, that is a new scene."""


@dataclass(frozen=True, slots=True)
class ViewSampling:
    """What to look for in a pair whose master is laid out as its export is.

    sharing: how eyes share the picture. eyes, sphere: whether to look for them. each: frames of the
    export to a second.
    """

    sharing: Sharing
    eyes: bool
    sphere: bool
    each: int


def plan_view_sampling(
    layout: StereoLayout | None, master: Reading, export: Reading
) -> ViewSampling | None:
    """Return what to look for in a pair; None where there is neither a sphere nor a second eye."""
    if layout is None:
        return None
    way = packing_in_use(layout.packed[1], export)
    eyes = way != MONO and (layout.eyes or stated_packing(export) == way)
    if not (eyes or layout.sphere):
        return None
    name = packings_of(layout, master, export)[1]
    told = way_of(name) if name else None
    left_first = told is None or told[0] != way or told[1]
    sharing = Sharing(way, left_first, shifts_by_eye(layout, left_first=left_first))
    return ViewSampling(sharing, eyes, layout.sphere, max(round(float(export.rate)), 1))


@dataclass(frozen=True, slots=True)
class SampledView:
    """What one moment of both files shows; None where it shows nothing."""

    master_frame: int
    export_frame: int
    sphere: SphereView | None = None
    eyes: StereoView | None = None


@dataclass(slots=True)
class ViewSampler:
    """Looks at the moments of one span, as its pairs of frames go by in order."""

    view_sampling: ViewSampling | None
    picture_map: PictureMap | None
    full_range: bool
    rate: float
    sampled_views: list[SampledView] = field(default_factory=list)
    _before: tuple[Reduced, Reduced] | None = None
    _signature: Signature | None = None
    _jumps: bool = False
    _seen: set[tuple[int, bool]] = field(default_factory=set)

    def see(self, signature: Signature) -> None:
        """Take in the signature of every frame of the export, in order."""
        if self.view_sampling is None:
            return
        self._jumps = self._signature is not None and is_jump(self._signature, signature)
        self._signature = signature

    def add(self, frames: tuple[Frame, Frame], smalls: tuple[Reduced, Reduced]) -> None:
        """Take in the pair of the frame just seen: master's and export's, and both made small."""
        if self.view_sampling is None:
            return
        block = frames[1].number // self.view_sampling.each
        kinds = {(block, False)} | ({(block, True)} if self._jumps else set())
        # Of eyes in turn, the second one's frame is looked at, together with the one before.
        waits = self.view_sampling.sharing.way == FRAME_SEQUENTIAL and (
            frames[1].number % 2 == 0 or self._before is None
        )
        if not waits and not kinds <= self._seen:
            self._seen |= kinds
            self.sampled_views.append(self._look(self.view_sampling, frames, smalls))
        self._before = smalls

    def _look(
        self,
        view_sampling: ViewSampling,
        frames: tuple[Frame, Frame],
        smalls: tuple[Reduced, Reduced],
    ) -> SampledView:
        one, other = (reduce_frame(frame, full_range=self.full_range) for frame in frames)
        pair = (one, other)
        sphere = (
            measure_sphere_view(pair, view_sampling.sharing.way, self.picture_map)
            if view_sampling.sphere
            else None
        )
        eyes = None
        if view_sampling.eyes:
            shown = Shown(frames, pair, smalls, self._before)
            eyes = measure_stereo_view(
                shown, view_sampling.sharing, self.picture_map, rate=self.rate
            )
        return SampledView(frames[0].number, frames[1].number, sphere, eyes)


def is_jump(before: Signature, now: Signature) -> bool:
    """Return whether a scene changes from one signature to the next."""
    return float(np.abs(now - before).mean()) > JUMP_CODES


def chosen_views(
    sampled_views: Iterable[SampledView], signatures: SignatureSeries, each: int
) -> tuple[SampledView, ...]:
    """Return the looks that count: in each second the first one, and the first at a new scene.

    signatures: of all frames of the export.
    """
    changes = set(_first_changes(signatures, each))
    seen: set[int] = set()
    chosen = []
    for view in sorted(sampled_views, key=lambda view: view.export_frame):
        block = view.export_frame // each
        if block not in seen or view.export_frame in changes:
            chosen.append(view)
        seen.add(block)
    return tuple(chosen)


def _first_changes(signatures: SignatureSeries, each: int) -> Iterator[int]:
    """Yield the first frame of each second at which the scene changes."""
    last = -1
    for begin, rows in blocks(signatures, overlap=1):
        numbers = signatures.numbers[begin + 1 : begin + len(rows)]
        for before, now, number in zip(rows, rows[1:], numbers, strict=False):
            block = int(number) // each
            if block != last and is_jump(before, now):
                last = block
                yield int(number)
