"""What became of light and colour."""

from collections.abc import Mapping
from dataclasses import dataclass

WAVE_LEVELS, WAVE_COLUMNS = 128, 96
COLOUR_STEPS = 16
MOVED_CODES = 50.0
"""Coding damage moves the mean of a cell by a few codes; white at 203 in place of 100 cd/m² moves
it by 64: areas beyond are misplaced."""


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
    uneven: share of the blocks that hold structure, for want of flat ones.
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
    uneven: float = 0.0

    def residual(self, act: str) -> float:
        """Return what an act leaves unexplained; raises KeyError for one not tried."""
        for fit in self.fits:
            if fit.act == act:
                return fit.residual
        raise KeyError(act)


@dataclass(frozen=True, slots=True, kw_only=True)
class FoldFindings:
    """How HDR light became an SDR signal, read as the SDR coding that keeps its hues best.

    transfer: the HDR's H.273 code. primaries, matrix: of that SDR coding. curve: (cd/m², SDR
    signal 0..1), from dark to bright. scatter: what the curve leaves over, in 10-bit codes. hue:
    middle turn of hues in ICtCp, degrees; saturation: chroma that is left of them, relative; None
    where nothing is coloured.
    flat_above: cd/m² above which all is one level, None where nothing is; cut: share of places
    brighter than that. white: cd/m² that stand for SDR's white by the dark tones, None where these
    were bent too. untouched: what is left over where nothing was done at all, in codes. promised:
    whether the promise asks for SDR.
    """

    transfer: int
    primaries: int
    matrix: int
    curve: tuple[tuple[float, float], ...]
    scatter: float
    hue: float | None
    saturation: float | None
    flat_above: float | None
    cut: float
    white: float | None
    untouched: float
    promised: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class HighlightEdge:
    """What became of the brightest light, by the middle delivered signal of each expected one.

    level: signal at which it would have been cut; nits: the same in cd/m², None but for PQ. cut,
    rolled, kept: what a cut there, the best roll-off and no act leave over, in 10-bit codes. slope:
    delivered ÷ expected rise above the level. samples: how many lie above it; levels: on how many
    levels, as if each had as many (0 in surveys kept before it was told).
    """

    level: float
    nits: float | None
    cut: float
    rolled: float
    kept: float
    slope: float
    samples: int
    levels: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class GamutEdge:
    """Colours outside a smaller gamut (H.273 code): how far they lie outside, and lay before.

    given, came: mean of the least linear channel below zero, as a share of the largest, in the
    expected and the delivered picture. samples: how many there are.
    """

    gamut: int
    samples: int
    given: float
    came: float


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthUse:
    """Whether fine levels came through, from samples at the same place in both pictures.

    residual: standard deviation of export − master over the smoothest blocks, in codes.
    step_share: how much of an 8-bit staircase stands in that difference, 0 none, 1 all of it;
    coarser: of one of 7 and of 6 bits, of which one of a bit more makes a half.
    """

    residual: float
    step_share: float
    coarser: tuple[float, ...] = ()


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
class Overlay:
    """Something that lies over the picture: its place in export samples, and of all the picture.

    frame: of the export, where it shows best. share: of the cells that are covered.
    """

    x: int
    y: int
    width: int
    height: int
    frame: int
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ColourPairs:
    """What colours became: cells of flat blocks whose expected colours are alike.

    fitted, aside: rows of expected luma, Cb and Cr, delivered ones, all in 1 / COLOUR_STEPS codes,
    and the number of blocks; aside are of other frames, for trying what was made of the fitted.
    """

    fitted: tuple[tuple[int, ...], ...]
    aside: tuple[tuple[int, ...], ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class WavePair:
    """Luma codes along the width of one frame of each picture: the expected and the delivered.

    Counts, rows = WAVE_LEVELS levels of the 10-bit scale from 0 up, columns = WAVE_COLUMNS from
    the left. frame: of the export.
    """

    frame: int
    expected: tuple[tuple[int, ...], ...]
    delivered: tuple[tuple[int, ...], ...]
