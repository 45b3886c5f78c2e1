"""What reading a span of both files gives, and how spans are put together.

Whole numbers add up in any order; what is not whole is kept by frame and put in order, so that
how the files were cut changes nothing, to the last bit.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..alignment.place.bars import Lines
from ..alignment.signature import SignatureSeries
from ..decoded.damage import UNBROKEN, SpanDamage, damage_of, joined_damage
from ..frame_statistics.model import Tally, joined
from ..model import Damage, FrameLikeness
from .sampled_pair import SampledPair
from .views import SampledView


@dataclass(frozen=True, slots=True)
class FileFindings:
    """One file's part of a span: counts, extremes of its lines, and a signature of each frame.

    numbers: (n,) of its frames; signatures: (n, 18, 32), see alignment/signature.py. broken: what
    decodes with errors only; it is not counted.
    """

    tally: Tally
    lines: Lines
    numbers: npt.NDArray[np.int64]
    signatures: npt.NDArray[np.float32]
    broken: SpanDamage = UNBROKEN

    @property
    def signature_series(self) -> SignatureSeries:
        """Return the signatures with the numbers of their frames."""
        return SignatureSeries(self.numbers, self.signatures)


@dataclass(frozen=True, slots=True)
class SpanFindings:
    """What both files show in a span, and how they compare. None: no frame of it decodes."""

    master: FileFindings | None
    export: FileFindings | None
    series: tuple[FrameLikeness, ...] = ()
    chosen: tuple[SampledPair, ...] = ()
    sampled_views: tuple[SampledView, ...] = ()


def merge_spans(parts: Iterable[SpanFindings]) -> SpanFindings:
    """Return the findings of all spans as one, in order of frames."""
    spans = list(parts)
    series = [one for span in spans for one in span.series]
    master = _files([span.master for span in spans])
    export = _files([span.export for span in spans])
    broken = [damage_of(side.broken) if side else Damage() for side in (master, export)]
    chosen = [
        one
        for span in spans
        for one in span.chosen
        if not broken[0].covers(one.pair.master_frame)
        and not broken[1].covers(one.pair.export_frame)
    ]
    return SpanFindings(
        master,
        export,
        tuple(sorted(series, key=lambda one: one.export_frame)),
        tuple(sorted(chosen, key=lambda one: one.pair.export_frame)),
        tuple(view for span in spans for view in span.sampled_views),
    )


def _files(parts: Sequence[FileFindings | None]) -> FileFindings | None:
    found = [part for part in parts if part is not None]
    tally = joined(part.tally for part in found)
    if tally is None:
        return None
    found.sort(key=lambda part: part.tally.frames[:1])
    lines = found[0].lines
    for part in found[1:]:
        lines = lines.widened(part.lines)
    numbers = np.concatenate([part.numbers for part in found])
    order = np.argsort(numbers, kind="stable")
    signatures = np.concatenate([part.signatures for part in found])[order]
    broken = joined_damage(part.broken for part in found)
    return FileFindings(tally, lines, numbers[order], signatures, broken)
