"""What one file alone shows."""

from dataclasses import dataclass

VECTOR_BINS = 64
CHROMATICITY_BINS = 90
CHROMATICITY_TOP = 0.9


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
    comb: largest share that one remainder mod 4 holds (0.25 = no comb), 10 bits and more. bits: how
    many the levels in use need, where nearly all lie on one comb; else the depth.
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
    bits: int = 0


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
class Damage:
    """Coded pictures that decode only with errors or guesses, or not at all.

    count: how many; first: the frame number of the first; undecoded: how many gave no picture.
    stretches: (first, last) frame numbers between which nothing can be relied on, rising: from a
    broken picture, and those that were coded from it, to the next that needs no other.
    """

    count: int = 0
    first: int | None = None
    undecoded: int = 0
    stretches: tuple[tuple[int, int], ...] = ()

    def covers(self, number: int) -> bool:
        """Return whether a frame cannot be relied on."""
        return any(first <= number <= last for first, last in self.stretches)


@dataclass(frozen=True, slots=True, kw_only=True)
class FileSurvey:
    """What every sample of every frame of one file shows.

    skipped: frames of another raster or depth. light: None for SDR. gamut: None where primaries
    are no wider than BT.709. banding: share of gradient steps of 3 codes or more on the 10-bit
    scale, None where it cannot be told. projection, stereo: what the picture is laid out as, in the
    words of those traits; None where that was not looked for, or cannot be told.
    """

    frames: int
    skipped: int
    raster: tuple[int, int]
    codes: CodeUse
    light: LightLevels | None
    gamut: GamutUse | None
    colours: ColourUse | None
    banding: float | None
    projection: str | None = None
    stereo: str | None = None
    damage: Damage = Damage()
