"""What reading a span of both files gives, and what all spans give once they are put together."""

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from ..alignment.place.bars import Lines
from ..alignment.signature import SignatureSeries
from ..decoded.damage import UNBROKEN, SpanDamage
from ..frame_statistics.model import Tally
from ..model import LikenessSeries
from ..model.likeness import COLUMNS, Table
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
    signatures: npt.NDArray[np.uint16]
    broken: SpanDamage = UNBROKEN


def _no_rows() -> Table:
    return np.zeros((0, len(COLUMNS)))


@dataclass(frozen=True, slots=True)
class SpanFindings:
    """What both files show in a span, and how they compare. None: no frame of it decodes.

    series: the likeness of each pair (n, 6), as a table of LikenessSeries.
    """

    master: FileFindings | None
    export: FileFindings | None
    series: npt.NDArray[np.float64] = field(default_factory=_no_rows)
    chosen: tuple[SampledPair, ...] = ()
    sampled_views: tuple[SampledView, ...] = ()


@dataclass(frozen=True, slots=True)
class SideFindings:
    """What a whole file shows, as FileFindings."""

    tally: Tally
    lines: Lines
    signatures: SignatureSeries
    broken: SpanDamage = UNBROKEN


@dataclass(frozen=True, slots=True)
class PassFindings:
    """What a pass over both files shows, as SpanFindings, in order of frames."""

    master: SideFindings | None
    export: SideFindings | None
    series: LikenessSeries
    chosen: tuple[SampledPair, ...] = ()
    sampled_views: tuple[SampledView, ...] = ()
