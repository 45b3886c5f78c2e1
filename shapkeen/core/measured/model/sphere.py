"""What shows that a picture is a sphere, and where it went."""

from dataclasses import dataclass

from ...geometry.sphere import Turn


@dataclass(frozen=True, slots=True, kw_only=True)
class SphereSigns:
    """What one picture (or one eye of it) shows of being laid out as a sphere.

    seam: mean step from the right edge to the left one ÷ that between neighbouring columns; 1 =
    closed. unrelated: the same between columns far apart: what an open seam would show. top,
    bottom: how uneven the outermost line is ÷ the middle ones. stretch: how much less fine
    structure across than down there is near the poles than at the equator: about 0.3 on a sphere, 1
    on a flat picture; None where the picture is too even to tell. joints: of a cube's twelve edges
    laid out in six faces, how many meet; 0 where no faces are seen.
    """

    seam: float | None
    unrelated: float | None
    top: float
    bottom: float
    stretch: float | None
    joints: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Horizon:
    """How far the upright lines of a sphere lean: pitch and roll in degrees, and how clearly.

    clear: share of upright lines that agree, against the next best lean: 1 = no clearer.
    """

    pitch: float
    roll: float
    clear: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SphereMoment:
    """One moment of both files. None: nothing can be told.

    seam: the step that the export adds at the seam, as RMS of 10-bit codes; ordinary: what it adds
    between neighbouring columns elsewhere. yaw: what is left of a turn, in degrees.
    """

    master_frame: int
    export_frame: int
    seam: float | None
    ordinary: float | None
    yaw: float | None


Rows = tuple[tuple[int, ...], ...]
"""Luma, row by row, 0 to 255."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SphereEnlargements:
    """What one file shows where a sphere is joined: luma around its seam, and at both poles.

    seam: the right edge, then the left one, as they meet behind the viewer. top, bottom: as seen
    looking straight up and down.
    """

    seam: Rows
    top: Rows
    bottom: Rows


@dataclass(frozen=True, slots=True, kw_only=True)
class SphereFindings:
    """What both files show of a sphere: the middle of all moments.

    kinds: what master and export are laid out as: equirectangular, half-equirectangular, cubemap,
    rectilinear (flat), None = cannot be told. turn: how far the content was turned, where it was
    found; likeness: how like the pictures are once that is undone. rows: the export's seam,
    (latitude in degrees, step beyond the master's in 10-bit codes), in the worst moment. tear: by
    how much lower than on the left the export's picture stands on the right, in % of its height.
    views: of master and export in the worst moment.
    """

    signs: tuple[SphereSigns, SphereSigns]
    kinds: tuple[str | None, str | None]
    turn: Turn
    turn_likeness: float | None
    seam: float | None
    ordinary: float | None
    moments: tuple[SphereMoment, ...]
    horizons: tuple[Horizon | None, Horizon | None] = (None, None)
    rows: tuple[tuple[float, float], ...] = ()
    worst_frame: int | None = None
    tear: float | None = None
    views: tuple[SphereEnlargements, SphereEnlargements] | None = None

    @property
    def is_seen_around(self) -> bool:
        """Whether viewers' spherical mapping draws both files; a cube map needs another."""
        return "cubemap" not in self.kinds
