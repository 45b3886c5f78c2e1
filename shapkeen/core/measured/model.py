"""The nouns of this room. All frozen and plain, so that they can be stored and drawn.

Code values are on the 10-bit scale throughout ("codes"), whatever the file's depth.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from ..colour.coding import Coding

DEFAULT_FRAMES = 24
VECTOR_BINS = 64
WAVE_LEVELS, WAVE_COLUMNS = 128, 96
CHROMATICITY_BINS = 90
CHROMATICITY_TOP = 0.9
MOVED_CODES = 50.0
"""Coding damage moves the mean of a cell by a few codes; white at 203 in place of 100 cd/m² moves
it by 64: areas beyond are misplaced."""
Progress = Callable[[int, int], None]
"""Called with (done, total) after each pair; may raise to stop."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading:
    """How to read a file's samples; told by the caller, never looked up here.

    transfer, matrix, primaries: H.273 codes, None where nobody says. rate: frames a second.
    peak_nits: the mastering display's peak in cd/m², None where nobody says.
    """

    full_range: bool
    transfer: int | None
    matrix: int | None
    rate: Fraction
    frame_count: int | None
    primaries: int | None = None
    peak_nits: float | None = None


def coding_of(reading: Reading) -> Coding:
    """Return how 10-bit triples of a file are meant; what nobody says is 0."""
    return Coding(
        transfer=reading.transfer or 0,
        primaries=reading.primaries or 0,
        matrix=reading.matrix or 0,
        full_range=reading.full_range,
    )


@dataclass(frozen=True, slots=True)
class Source:
    """A file and how to read it."""

    path: Path
    reading: Reading


@dataclass(frozen=True, slots=True)
class Bars:
    """Thickness in samples of even bars at each edge."""

    top: int = 0
    bottom: int = 0
    left: int = 0
    right: int = 0

    @property
    def is_empty(self) -> bool:
        """Return whether there are none."""
        return not (self.top or self.bottom or self.left or self.right)


@dataclass(frozen=True, slots=True, kw_only=True)
class CodeUse:
    """Luma codes in use over all surveyed samples, on the file's own scale.

    below_black, above_white: shares outside limited range. levels: distinct codes met.
    comb: largest share that one remainder mod 4 holds (0.25 = no comb), 10 bits and more.
    """

    depth: int
    lowest: int
    highest: int
    p001: int
    p999: int
    below_black: float
    above_white: float
    levels: int
    comb: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LightLevels:
    """Light by CTA-861.3 in cd/m², of every sample of every frame.

    p999: the brightest frame's 99.9th percentile, which stray samples cannot move.
    series: (time in s, brightest, average) a frame, or the most of a stretch of frames in
    long files. above_peak: share of samples above the mastering display's peak, if that is known.
    """

    max_cll: float
    max_fall: float
    p9999: float
    p999: float
    series: tuple[tuple[float, float, float], ...]
    above_peak: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class GamutUse:
    """Shares of samples outside P3-D65 and BT.709; worst_p3: of the frame with most, at worst_s."""

    outside_p3: float
    outside_bt709: float
    worst_p3: float
    worst_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourUse:
    """How often colours occur, over thinned samples of all frames.

    vector: VECTOR_BINS², rows = Cb from its lowest code, columns = Cr. chromaticity:
    CHROMATICITY_BINS², rows = y from 0 to CHROMATICITY_TOP, columns = x (CIE 1931).
    """

    vector: tuple[tuple[int, ...], ...]
    chromaticity: tuple[tuple[int, ...], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class FileSurvey:
    """What every sample of every frame of one file shows.

    skipped: frames of another raster or depth. light: None for SDR. gamut: None where primaries
    are no wider than BT.709. banding: share of gradient steps of 3 codes or more on the 10-bit
    scale, None where it cannot be told.
    """

    frames: int
    skipped: int
    raster: tuple[int, int]
    codes: CodeUse
    light: LightLevels | None
    gamut: GamutUse | None
    colours: ColourUse | None
    banding: float | None


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
class Fit:
    """One act tried on the tone: its name, parameter, and what it leaves unexplained.

    residual: root mean square over code bins of the median difference, in codes.
    """

    act: str
    residual: float
    exponent: float | None = None


@dataclass(frozen=True, slots=True)
class Act:
    """An act on codes: its name and parameters as the contract names them."""

    name: str
    values: Mapping[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class ActFit:
    """One act, or two after another, tried on colour triples, and what is left.

    act: the name, two joined by "+". residual: root mean square over ranges of luma of the middle
    error of cells of like colour, in codes of luma and both chroma together. values: of a single
    act; parts: of two.
    """

    act: str
    residual: float
    values: Mapping[str, float]
    parts: tuple[Act, ...] = ()

    @property
    def acts(self) -> tuple[Act, ...]:
        """Return the act, or both in their order."""
        return self.parts or (Act(self.act, self.values),)


@dataclass(frozen=True, slots=True, kw_only=True)
class ToneFindings:
    """How expected codes became delivered ones, over flat blocks.

    fits: all acts tried, best first. noise: scatter of blocks round their common curve.
    span: code range that the blocks cover. curve: (expected, delivered median) a bin.
    density: counts of blocks, 64 × 64, rows = delivered from 0, columns = expected from 0.
    chroma_*: the same for Cb and Cr together; gain is delivered ÷ expected saturation.
    """

    blocks: int
    fits: tuple[Fit, ...]
    noise: float
    span: float
    curve: tuple[tuple[float, float], ...]
    density: tuple[tuple[int, ...], ...]
    chroma_span: float
    chroma_residual: float
    chroma_gain: float

    def residual(self, act: str) -> float:
        """Return what an act leaves unexplained; raises KeyError for one not tried."""
        for fit in self.fits:
            if fit.act == act:
                return fit.residual
        raise KeyError(act)


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthUse:
    """Whether fine levels came through, from samples at the same place in both pictures.

    residual: standard deviation of export − master over the smoothest blocks, in codes.
    step_share: how much of an 8-bit staircase stands in that difference, 0 none, 1 all of it.
    """

    residual: float
    step_share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Misplaced:
    """An area whose light sits elsewhere than expected, while the rest of the picture does not.

    left, top, width, height: fractions of the picture that both files show. frame: of the export,
    where it shows best. Codes on the 10-bit scale; nits: of a grey of that code, cd/m².
    """

    left: float
    top: float
    width: float
    height: float
    frame: int
    expected_code: float
    delivered_code: float
    expected_nits: float | None
    delivered_nits: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class WavePair:
    """Luma codes along the width of one frame of each picture: the expected and the delivered.

    Counts, rows = WAVE_LEVELS levels of the 10-bit scale from 0 up, columns = WAVE_COLUMNS from
    the left. frame: of the export.
    """

    frame: int
    expected: tuple[tuple[int, ...], ...]
    delivered: tuple[tuple[int, ...], ...]


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
class FrameLikeness:
    """How like one frame of the export is to what was expected, of every frame.

    Figures as in FramePair, but on small pictures (together/small.py): fine coding noise is
    averaged away, so they are kinder, and made to be compared with each other.
    """

    master_frame: int
    export_frame: int
    ssim: float
    psnr: float
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

    master_frames, export_frames: how many pictures there are, counted where no header says.
    pairs: those compared in depth; series: every frame that has a counterpart.
    """

    pairs: tuple[FramePair, ...]
    offset: int
    decoded: int
    master_raster: tuple[int, int]
    export_raster: tuple[int, int]
    master_whole: FileSurvey
    export_whole: FileSurvey
    master_bars: Bars | None
    export_bars: Bars | None
    registration: Registration | None
    tone: ToneFindings | None
    depth: DepthUse | None
    difference: Difference | None
    detail_transfer: float | None
    seconds: float
    master_frames: int | None = None
    export_frames: int | None = None
    acts: tuple[ActFit, ...] = ()
    misplaced: tuple[Misplaced, ...] = ()
    wave: WavePair | None = None
    series: tuple[FrameLikeness, ...] = ()

    @property
    def master_codes(self) -> CodeUse:
        """Return the master's codes over all its frames."""
        return self.master_whole.codes

    @property
    def export_codes(self) -> CodeUse:
        """Return the export's codes over all its frames."""
        return self.export_whole.codes

    @property
    def export_light(self) -> LightLevels | None:
        """Return the export's light levels over all its frames."""
        return self.export_whole.light
