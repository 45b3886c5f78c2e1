"""What a pair of files shows together."""

from dataclasses import dataclass

from .detail import DetailFindings
from .eyes import StereoFindings
from .file import Bars, CodeUse, FileSurvey, LightLevels
from .light import (
    ActFit,
    ColourPairs,
    DepthUse,
    FoldFindings,
    GamutEdge,
    HighlightEdge,
    Misplaced,
    Overlay,
    ToneFindings,
    WavePair,
)
from .likeness import NO_ROWS, LikenessSeries
from .reading import Repacking
from .sound import SoundFindings
from .sphere import SphereFindings
from .time import TimeFindings

FIRST_LOOK, WHOLE = "first-look", "whole"
"""Stages of a survey: some tens of pairs reached by seeking, and every frame."""
SURVEY_FORM = 9
"""Raised when a measure changes: surveys of another form are not judged, but made again."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Registration:
    """Where the whole master picture lies in the export's raster.

    left, top, width, height: the place of the master's raster in export samples, which may
    reach outside the export's. spread: largest deviation between frames, in export samples.
    turn: clockwise degrees that the picture suffered; mirrored: left and right exchanged
    before that turn. likeness: normalised correlation, 0 to 1.
    """

    left: float
    top: float
    width: float
    height: float
    spread: float
    likeness: float
    frames: int
    turn: int = 0
    mirrored: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Astray:
    """A frame whose picture lies elsewhere than in most: right and down, in export samples."""

    master_frame: int
    export_frame: int
    dx: float
    dy: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FramePair:
    """One compared pair: frame numbers, export time, and how alike they are.

    ssim, psnr (dB, of luma): against the expected picture, on the common grid. delta_e: the mean,
    delta_e_worst: of the worst region of about 1/40 of the width; None where colours are not known.
    """

    master_frame: int
    export_frame: int
    time_s: float
    ssim: float | None
    psnr: float | None = None
    delta_e: float | None = None
    delta_e_worst: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class LikenessSummary:
    """The likeness of every frame in short: means, and the frame that is least like.

    frames: how many. Figures as in FrameLikeness.
    """

    frames: int
    ssim_mean: float
    psnr_mean: float
    ssim_worst: float
    worst_frame: int
    delta_e: float | None = None
    delta_e_worst: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """Likeness after registration. SSIM: Wang et al. 2004, on the common grid (grid.py).

    delta_e: mean ΔE ITP (HDR) or CIEDE2000 (SDR) of all pairs; worst: of the worst region of any.
    """

    ssim_mean: float
    ssim_worst: float
    worst_frame: int
    psnr_mean: float | None = None
    delta_e: float | None = None
    delta_e_worst: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class PairSurvey:
    """All that was measured from one master–export pair; None = could not be measured.

    stage: FIRST_LOOK or WHOLE. master_frames, export_frames: how many pictures there are, counted
    where no header says. pairs: those compared closely; series: every frame that has a counterpart,
    or of stretches of `series_step` frames the least and the most like one. combed: by how much
    more of the export's picture is woven from two fields than of the master's, at the most.
    sheared: samples by which the export's last row lies further right than its first.
    repacking: how the master was repacked before anything else was compared. sphere, eyes:
    None where neither file is meant to be one, nor looks like it. sound: None
    where neither has any.
    """

    pairs: tuple[FramePair, ...]
    offset: int
    decoded: int
    master_raster: tuple[int, int]
    export_raster: tuple[int, int]
    master_statistics: FileSurvey
    export_statistics: FileSurvey
    master_bars: Bars | None
    export_bars: Bars | None
    registration: Registration | None
    tone: ToneFindings | None
    depth: DepthUse | None
    difference: Difference | None
    detail: DetailFindings | None
    seconds: float
    master_frames: int | None = None
    export_frames: int | None = None
    acts: tuple[ActFit, ...] = ()
    fold: FoldFindings | None = None
    highlights: HighlightEdge | None = None
    even_highlights: HighlightEdge | None = None
    calm_highlights: HighlightEdge | None = None
    gamut_edges: tuple[GamutEdge, ...] = ()
    misplaced: tuple[Misplaced, ...] = ()
    overlays: tuple[Overlay, ...] = ()
    sheared: float = 0.0
    wave: WavePair | None = None
    colours: ColourPairs | None = None
    series: LikenessSeries = NO_ROWS
    series_step: int = 1
    likeness: LikenessSummary | None = None
    timing: TimeFindings | None = None
    combed: float | None = None
    astray: tuple[Astray, ...] = ()
    repacking: Repacking | None = None
    sphere: SphereFindings | None = None
    eyes: StereoFindings | None = None
    sound: SoundFindings | None = None
    stage: str = WHOLE

    @property
    def master_codes(self) -> CodeUse:
        """Return the master's codes over all its frames."""
        return self.master_statistics.codes

    @property
    def export_codes(self) -> CodeUse:
        """Return the export's codes over all its frames."""
        return self.export_statistics.codes

    @property
    def export_light(self) -> LightLevels | None:
        """Return the export's light levels over all its frames."""
        return self.export_statistics.light
