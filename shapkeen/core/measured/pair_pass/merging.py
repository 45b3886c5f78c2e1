"""How spans are put together as they come, without being held: a film has hundreds of them.

Whole numbers add up in any order; what is not whole is kept by frame and put in order, so that
how the files were cut changes nothing, to the last bit.
"""

from collections.abc import Iterable

import numpy as np

from ..alignment.place.bars import Lines
from ..alignment.signature import SignatureSeries
from ..decoded.damage import SpanDamage, damage_of, joined_damage
from ..frame_statistics.model import TallySum
from ..model import Damage, LikenessSeries
from ..model.likeness import EXPORT_FRAME, Table
from .model import FileFindings, PassFindings, SideFindings, SpanFindings
from .sampled_pair import SampledPair
from .views import SampledView


def merge_spans(parts: Iterable[SpanFindings]) -> PassFindings:
    """Return the findings of all spans as one, in order of frames."""
    master, export = _Side(), _Side()
    series: list[Table] = []
    chosen: list[SampledPair] = []
    views: list[SampledView] = []
    for part in parts:
        master.add(part.master)
        export.add(part.export)
        series.append(part.series)
        chosen += part.chosen
        views += part.sampled_views
    sides = master.result(), export.result()
    broken = [damage_of(side.broken) if side else Damage() for side in sides]
    whole = [
        one
        for one in chosen
        if not broken[0].covers(one.pair.master_frame)
        and not broken[1].covers(one.pair.export_frame)
    ]
    return PassFindings(
        *sides,
        _ordered(series),
        tuple(sorted(whole, key=lambda one: one.pair.export_frame)),
        tuple(views),
    )


def _ordered(series: list[Table]) -> LikenessSeries:
    if not series:
        return LikenessSeries()
    table = np.concatenate(series)
    return LikenessSeries(table[np.argsort(table[:, EXPORT_FRAME], kind="stable")])


class _Side:
    """One file's parts, added up as they come."""

    def __init__(self) -> None:
        self._tally = TallySum()
        self._lines: dict[tuple[int, tuple[int, int]], tuple[int, Lines]] = {}
        self._signatures = SignatureSeries()
        self._broken: list[SpanDamage] = []

    def add(self, part: FileFindings | None) -> None:
        if part is None:
            return
        self._tally.add(part.tally)
        self._add_lines(part)
        self._signatures.add(part.numbers, part.signatures)
        self._broken.append(part.broken)

    def _add_lines(self, part: FileFindings) -> None:
        lines, first = part.lines, int(part.tally.frames["ticks"][0])
        before = self._lines.get((lines.depth, lines.raster), (first, lines))
        widened = min(first, before[0]), lines.widened(before[1])
        self._lines[lines.depth, lines.raster] = widened

    def result(self) -> SideFindings | None:
        """Return what the whole file shows; None of nothing."""
        tally = self._tally.result()
        if tally is None:
            return None
        _, lines = min(self._lines.values(), key=lambda one: one[0])
        return SideFindings(tally, lines, self._signatures, joined_damage(self._broken))
