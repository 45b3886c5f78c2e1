"""Gathering a rendition's figures, frame after frame."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ...measured.decoded.frames import Frame
from ...measured.decoded.grid import Real
from .excerpts import Excerpt
from .figures import Figures, FrameFigures, banding, detail_left, enlarged, frame_figures, ten_bit
from .through_service import Passage

MEASURED, SPARSEST = 10, 50
"""Frames of an excerpt that are held against the picture as it should be; every 50th of a film."""


@dataclass(slots=True)
class Gauge:
    """Holds one rendition against the picture as it should be. through, right: as passages_of."""

    through: Passage
    right: Passage
    _series: list[FrameFigures] = field(default_factory=list)
    _fine: list[tuple[Real, Real]] = field(default_factory=list)
    _steps: list[float] = field(default_factory=list)

    def see(self, frame: Frame, shown: Frame | None, *, is_moment: bool) -> None:
        """Take one frame of the file, and the rendition's; None where the file itself is played.

        is_moment: whether detail and gradients are looked at too.
        """
        if shown is not None:
            there = ten_bit((shown.luma, shown.cb, shown.cr), shown.depth)
        else:
            there = ten_bit(self.through.planes(frame), self.through.depth)
        expected = ten_bit(self.right.planes(frame), self.right.depth)
        coding = replace(self.right.goal, table="")
        self._series.append(frame_figures(frame.number, expected, there, coding))
        if not is_moment:
            return
        found = banding(expected["luma"], there["luma"])
        self._steps += [found] if found is not None else []
        whole = replace(self.right, raster=self.right.part.size)
        large = ten_bit(whole.planes(frame), whole.depth)["luma"]
        self._fine.append((large, enlarged(there["luma"], self.right.part.size)))

    def figures(self) -> Figures:
        """Return what was found; one frame at least was seen."""
        left, height = detail_left(self._fine), self.right.part.height
        colours = [one.delta_e for one in self._series if one.delta_e is not None]
        return Figures(
            ssim=float(np.mean([one.ssim for one in self._series])),
            psnr=float(np.mean([one.psnr for one in self._series])),
            delta_e=float(np.mean(colours)) if colours else None,
            detail_lines=round(left.left * height) if left else None,
            of_lines=round(left.most * height) if left else None,
            detail_kept=left.kept if left else None,
            banding=float(np.mean(self._steps)) if self._steps else None,
            worst=min(self._series, key=lambda one: one.ssim).frame,
            series=tuple(self._series),
        )


def measured_places(numbers: Sequence[int], excerpts: Sequence[Excerpt]) -> set[int]:
    """Return which of a rendition's frames are measured: evenly, and at every moment."""
    places: set[int] = set()
    for one in excerpts:
        inside = [p for p, number in enumerate(numbers) if one.first <= number < one.end]
        step = max(min(len(inside) // MEASURED, SPARSEST), 1)
        places |= set(inside[step // 2 :: step])
        places |= {nearest(numbers, at) for at in one.moments.values()}
    return places


def nearest(numbers: Sequence[int], frame: int) -> int:
    """Return the place of the number that is nearest to a frame."""
    return int(np.abs(np.asarray(numbers) - frame).argmin())
