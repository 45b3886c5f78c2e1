"""What two eyes' pictures show: how they are packed, and how far apart they see things."""

from dataclasses import dataclass

PARALLAX_STEP, PARALLAX_REACH = 0.1, 12.0
"""Parallax is counted in steps of so many % of the width, this far in front and behind."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ParallaxUse:
    """Parallax of one moment, of what is matched in both eyes; right eye's place − left eye's.

    counts: by PARALLAX_STEP from -PARALLAX_REACH on. nearest, middle, farthest: the 2nd, 50th and
    98th percentile, in % of one eye's width; positive = behind the screen. vertical: the middle, in
    % of an eye's height, positive = right eye's picture lower; vertical_spread: half of what lies
    between most. matched: share of the picture that is seen by both eyes and was found.
    """

    counts: tuple[int, ...]
    nearest: float
    middle: float
    farthest: float
    vertical: float
    vertical_spread: float
    matched: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewShift:
    """How one eye lies against its own eye of the master: right and down, in % of its size.

    likeness: correlation once that is undone. other: the same against the master's other eye. size:
    how many times as large its picture is.
    """

    dx: float
    dy: float
    likeness: float
    other: float
    size: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class StereoMoment:
    """One moment of both files. parallax: of master and export; shifts: of left and right eye.

    colour: ΔE between both eyes of master and export, at matched places; sharpness: right eye's
    fine structure ÷ the left eye's, there.
    """

    master_frame: int
    export_frame: int
    time_s: float
    parallax: tuple[ParallaxUse | None, ParallaxUse | None]
    shifts: tuple[ViewShift, ViewShift] | None
    colour: tuple[float | None, float | None]
    sharpness: tuple[float | None, float | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class StereoFindings:
    """How eyes are packed in both files, and what all moments show.

    packings: of master and export, in the words of the trait `stereo`; None = cannot be told. sure:
    whether the master's eyes told the export's order; where they did not, it is taken to be as
    usual. repeated: whether the export shows one eye twice. swapped: whether eyes that
    follow frame after frame do so the other way round. late: by how many frames the left and
    the right eye are behind the master's, None where too little moves. moments: at least one a
    second, and where scenes change.
    """

    packings: tuple[str | None, str | None]
    sure: bool
    repeated: bool
    swapped: bool = False
    late: tuple[int | None, int | None] = (None, None)
    moments: tuple[StereoMoment, ...] = ()
