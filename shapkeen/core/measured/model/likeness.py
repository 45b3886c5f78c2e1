"""How like every frame of an export is to what was expected: rows, kept as numbers."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import astuple, dataclass
from typing import overload

import numpy as np
import numpy.typing as npt


@dataclass(frozen=True, slots=True, kw_only=True)
class FrameLikeness:
    """How like one frame of the export is to what was expected, of every frame.

    Figures as in FramePair, but on small pictures (alignment/signature.py): fine coding noise is
    averaged away, so they are kinder, and made to be compared with each other.
    """

    master_frame: int
    export_frame: int
    ssim: float
    psnr: float
    delta_e: float | None = None
    delta_e_worst: float | None = None


Worst = Callable[[FrameLikeness], None]
"""Called with the frame that is least like what was expected so far."""
COLUMNS = ("master_frame", "export_frame", "ssim", "psnr", "delta_e", "delta_e_worst")
WHOLE_COLUMNS = 2
"""The first two are frame numbers."""
EXPORT_FRAME = COLUMNS.index("export_frame")
STRETCH = 4096
"""Rows that are taken out of a table at once."""
Table = npt.NDArray[np.float64]


class LikenessSeries(Sequence[FrameLikeness]):
    """Rows in order of the export's frames, 48 bytes each: a film has 200 000 of them.

    table: (n, 6) as COLUMNS, NaN for a figure that is not known.
    """

    __slots__ = ("table",)

    def __init__(self, table: Table | None = None) -> None:
        """Hold a table; none of no rows."""
        self.table = np.zeros((0, len(COLUMNS))) if table is None else table

    @classmethod
    def of(cls, rows: Iterable[FrameLikeness]) -> "LikenessSeries":
        """Return rows as a series."""
        return cls(table_of(rows))

    def __len__(self) -> int:
        return len(self.table)

    @overload
    def __getitem__(self, at: int) -> FrameLikeness: ...

    @overload
    def __getitem__(self, at: slice) -> "LikenessSeries": ...

    def __getitem__(self, at: int | slice) -> "FrameLikeness | LikenessSeries":
        if isinstance(at, slice):
            return LikenessSeries(self.table[at])
        return _row(self.table[at].tolist())

    def __iter__(self) -> Iterator[FrameLikeness]:
        # A stretch at once: row by row, most of the time would go into asking for each.
        starts = range(0, len(self.table), STRETCH)
        return (_row(row) for at in starts for row in self.table[at : at + STRETCH].tolist())

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, LikenessSeries):
            return NotImplemented
        return np.array_equal(self.table, other.table, equal_nan=True)

    def __hash__(self) -> int:
        return hash(self.table.tobytes())

    def __repr__(self) -> str:
        return f"LikenessSeries({len(self)} rows)"

    def frames(self) -> list[tuple[int, int]]:
        """Return of each row the frame of the master and that of the export."""
        there, here = self.table[:, :WHOLE_COLUMNS].astype(np.int64).T.tolist()
        return list(zip(there, here, strict=True))

    def column(self, name: str) -> Table:
        """Return one figure of all rows (n,)."""
        return self.table[:, COLUMNS.index(name)]


NO_ROWS = LikenessSeries()


def table_of(rows: Iterable[FrameLikeness]) -> Table:
    """Return rows as a table (n, 6)."""
    found = [[np.nan if value is None else value for value in astuple(row)] for row in rows]
    return np.array(found, np.float64).reshape(len(found), len(COLUMNS))


def _row(values: list[float]) -> FrameLikeness:
    there, here, ssim, psnr, *seen = values
    # NaN is the one value that is not itself.
    delta_e, worst = (None if value != value else value for value in seen)  # noqa: PLR0124
    return FrameLikeness(
        master_frame=int(there),
        export_frame=int(here),
        ssim=ssim,
        psnr=psnr,
        delta_e=delta_e,
        delta_e_worst=worst,
    )
