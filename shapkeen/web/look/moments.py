"""The moments that Look can show, and by how much each differs: what its strip is drawn from."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

from ...core.judged import Comparison
from ...core.judged.evidence import Evidence
from ...core.judged.geometry import aspect_of, shown_ratio
from ...core.measured import FrameLikeness, FramePair, PairSurvey

MOST_MOMENTS = 5000
"""Longer files are thinned to the worst moment of each stretch: a strip has no more columns."""
WORST = 5
OVERLAYS = ("nothing", "thirds", "safe areas", "circle", "promised frame")
"""As overlay.js draws them."""
APART_SHARE = 0.02
"""Of the length: worst moments closer together are one."""


@dataclass(frozen=True, slots=True)
class Strip:
    """Moments as rows of master frame, export frame, SSIM, PSNR (dB), ΔE, ΔE of the worst place.

    each: how many frames a row stands for. worst: indices of the moments that differ most.
    """

    rows: tuple[tuple[float | None, ...], ...]
    each: int
    worst: tuple[int, ...]

    def nearest(self, frame: int) -> int:
        """Return the index of the moment nearest to a frame of the export."""
        return min(range(len(self.rows)), key=lambda i: abs((self.rows[i][1] or 0) - frame))


def strip_of(survey: PairSurvey) -> Strip:
    """Return the moments of a survey: every frame, or where nothing was compared, the pairs."""
    frames: Sequence[FrameLikeness | FramePair] = survey.series or survey.pairs
    each = survey.series_step
    if each > 1:
        # Of a long film the least and the most like frame of each stretch are kept.
        parts = groupby(frames, key=lambda one: one.export_frame // each)
        stretches = [list(part) for _, part in parts]
    else:
        each = -(-len(frames) // MOST_MOMENTS)
        stretches = [list(frames[i : i + each]) for i in range(0, len(frames), each)]
    rows = tuple(_row(max(stretch, key=_off)) for stretch in stretches)
    return Strip(rows, each, _worst([max(map(_off, stretch)) for stretch in stretches]))


def _off(one: FrameLikeness | FramePair) -> float:
    """Return by how much a frame differs: in ΔE, or where colours are not known, by SSIM."""
    return one.delta_e if one.delta_e is not None else 1 - (one.ssim or 0)


def _row(one: FrameLikeness | FramePair) -> tuple[float | None, ...]:
    numbers = (one.master_frame, one.export_frame)
    return (*numbers, one.ssim, one.psnr, one.delta_e, one.delta_e_worst)


def _worst(off: list[float]) -> tuple[int, ...]:
    apart = max(int(len(off) * APART_SHARE), 1)
    found: list[int] = []
    for index in sorted(range(len(off)), key=lambda i: -off[i]):
        if all(abs(index - other) >= apart for other in found):
            found.append(index)
        if len(found) == WORST:
            break
    return tuple(found)


def laid_over(survey: PairSurvey) -> tuple[float, float, float, float]:
    """Return where the whole master lies in the export: left, top, width, height as fractions.

    The whole where that is not known, or the picture was turned.
    """
    place, (width, height) = survey.registration, survey.export_raster
    if place is None or place.turn or place.mirrored:
        return 0.0, 0.0, 1.0, 1.0
    return place.left / width, place.top / height, place.width / width, place.height / height


def areas_of(survey: PairSurvey) -> list[tuple[float, float, float, float]]:
    """Return the misplaced areas as fractions of the export: left, top, width, height."""
    x, y, w, h = laid_over(survey)
    left, top, right, bottom = max(x, 0.0), max(y, 0.0), min(x + w, 1.0), min(y + h, 1.0)
    wide, high = right - left, bottom - top
    return [
        (left + one.left * wide, top + one.top * high, one.width * wide, one.height * high)
        for one in survey.misplaced
    ]


def aspects_of(comparison: Comparison) -> tuple[float, float]:
    """Return the pixel aspects, width ÷ height, that players obey in master and export."""
    (h, v), (p, q) = aspect_of(comparison.master), aspect_of(comparison.export)
    return h / v, p / q


def circle_of(comparison: Comparison) -> float:
    """Return how wide a circle is shown for its height; 1 where that is not known."""
    evidence = Evidence(comparison.promise, comparison.master, comparison.export, comparison.survey)
    return shown_ratio(evidence) or 1.0
