"""Moments of spheres and of two eyes: which frames are looked at.

In every second the first frame that both files have, and the first at which the scene changes. A
span measures what may be one of them; which are is settled when all are put together, so that how
the files were cut changes nothing.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from ...geometry.packing import IN_TURN
from ..decoded.frames import Frame
from ..decoded.grid import Reduced, reduce_frame
from ..eyes.moment import EyesLook, Sharing, Shown, look_at_eyes
from ..placed.laying import Laying
from ..sphere.moment import SphereLook, look_round
from .small import Mark

JUMP_CODES = 48.0
"""Mean change of a mark from one frame to the next, in 10-bit codes, that is a new scene."""


@dataclass(frozen=True, slots=True)
class Watch:
    """What to watch for in a pair whose master is laid out as its export is.

    sharing: how eyes share the picture. eyes, sphere: whether to look for them. each: frames of the
    export to a second.
    """

    sharing: Sharing
    eyes: bool
    sphere: bool
    each: int


@dataclass(frozen=True, slots=True)
class Look:
    """What one moment of both files shows; None where it shows nothing."""

    master_frame: int
    export_frame: int
    sphere: SphereLook | None = None
    eyes: EyesLook | None = None


@dataclass(slots=True)
class Watcher:
    """Looks at the moments of one span, as its pairs of frames go by in order."""

    watch: Watch | None
    laying: Laying | None
    full_range: bool
    rate: float
    looks: list[Look] = field(default_factory=list)
    _before: tuple[Reduced, Reduced] | None = None
    _mark: Mark | None = None
    _jumps: bool = False
    _seen: set[tuple[int, bool]] = field(default_factory=set)

    def see(self, mark: Mark) -> None:
        """Take in the mark of every frame of the export, in order."""
        if self.watch is None:
            return
        self._jumps = self._mark is not None and is_jump(self._mark, mark)
        self._mark = mark

    def add(self, frames: tuple[Frame, Frame], smalls: tuple[Reduced, Reduced]) -> None:
        """Take in the pair of the frame just seen: master's and export's, and both made small."""
        if self.watch is None:
            return
        block = frames[1].number // self.watch.each
        kinds = {(block, False)} | ({(block, True)} if self._jumps else set())
        # Of eyes in turn, the second one's frame is looked at, together with the one before.
        waits = self.watch.sharing.way == IN_TURN and (
            frames[1].number % 2 == 0 or self._before is None
        )
        if not waits and not kinds <= self._seen:
            self._seen |= kinds
            self.looks.append(self._look(self.watch, frames, smalls))
        self._before = smalls

    def _look(
        self, watch: Watch, frames: tuple[Frame, Frame], smalls: tuple[Reduced, Reduced]
    ) -> Look:
        one, other = (reduce_frame(frame, full_range=self.full_range) for frame in frames)
        pair = (one, other)
        sphere = look_round(pair, watch.sharing.way, self.laying) if watch.sphere else None
        eyes = None
        if watch.eyes:
            shown = Shown(frames, pair, smalls, self._before)
            eyes = look_at_eyes(shown, watch.sharing, self.laying, rate=self.rate)
        return Look(frames[0].number, frames[1].number, sphere, eyes)


def is_jump(before: Mark, now: Mark) -> bool:
    """Return whether a scene changes from one mark to the next."""
    return float(np.abs(now - before).mean()) > JUMP_CODES


def chosen_looks(
    looks: Iterable[Look], numbers: npt.NDArray[np.int64], marks: npt.NDArray[np.float32], each: int
) -> tuple[Look, ...]:
    """Return the looks that count: in each second the first one, and the first at a new scene.

    numbers, marks: of all frames of the export.
    """
    changes = set(_first_changes(numbers, marks, each))
    seen: set[int] = set()
    chosen = []
    for look in sorted(looks, key=lambda look: look.export_frame):
        block = look.export_frame // each
        if block not in seen or look.export_frame in changes:
            chosen.append(look)
        seen.add(block)
    return tuple(chosen)


def _first_changes(
    numbers: npt.NDArray[np.int64], marks: npt.NDArray[np.float32], each: int
) -> Iterator[int]:
    """Yield the first frame of each second at which the scene changes."""
    last = -1
    for before, now, number in zip(marks, marks[1:], numbers[1:], strict=False):
        block = int(number) // each
        if block != last and is_jump(before, now):
            last = block
            yield int(number)
