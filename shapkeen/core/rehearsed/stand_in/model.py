"""The nouns of a stand-in: what a simulated service takes, believes, makes and shows when."""

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Literal

from ...geometry.framing import Size
from ...promised.specification import Length, Light

Value = int | str | Size | None
"""A trait's value as services take it; None: they take it for absent."""
Witness = Literal["wrapper", "stream"]
Branch = Literal["sdr", "hdr"]

TRAITS = (
    *("transfer", "primaries", "matrix", "range"),
    *("pixel_aspect", "rotation", "projection", "stereo"),
)
"""What a service recognises, in the order in which pages tell it."""
AS_SENT = "as sent"
"""In place of a codec: the file itself is played."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Belief:
    """Which witness a service believes of one trait.

    witnesses: in order of trust; none: it looks at no tag. silent: what it takes where nobody
    speaks. at_odds: of two that differ, the first one is believed, or none. understands: values
    that it knows, empty for all; another counts as silence.
    """

    witnesses: tuple[Witness, ...] = ("stream", "wrapper")
    silent: Value = None
    at_odds: Literal["first", "silent"] = "first"
    understands: tuple[Value, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class TakesSound:
    """Sound that a service takes: codecs' names begin so; none means any."""

    needed: bool = False
    codecs: tuple[str, ...] = ()
    sample_rates: tuple[int, ...] = ()
    most_channels: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Takes:
    """Limits at the door; None or empty where there is none.

    codecs: of the picture. least_raster, most_raster: long side and short side, however the picture
    stands. shape: shown width and height that is asked for; least_shape, most_shape: between which
    it may lie. most_depth: bits. rates: frames a second as [n, d]. most_level: of H.264 and H.265,
    as they are numbered (4.0). square: whether other pixel aspects are refused. interlaced: whether
    fields are taken. light: kinds that are taken as what they are; other_light: what becomes of the
    others.
    """

    wrappers: tuple[str, ...]
    codecs: tuple[str, ...]
    length: Length = field(default_factory=Length)
    most_bytes: int | None = None
    most_bit_rate: int | None = None
    least_raster: Size | None = None
    most_raster: Size | None = None
    shape: Size | None = None
    least_shape: Size | None = None
    most_shape: Size | None = None
    most_depth: int | None = None
    chroma: tuple[str, ...] = ()
    rates: tuple[Size, ...] = ()
    most_rate: Size | None = None
    most_level: float | None = None
    square: bool = False
    interlaced: bool = True
    light: tuple[Light, ...] = ("sdr",)
    other_light: Literal["refuse", "sdr"] = "sdr"
    sound: TakesSound = TakesSound()

    @property
    def frame_rates(self) -> tuple[Fraction, ...]:
        """Return the rates that are taken, as exact ratios; none means any."""
        return tuple(Fraction(*rate) for rate in self.rates)


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """A stage in simulated time, counted from when the upload ended.

    after_s: seconds that it always takes; times_length: and so many times the picture's length.
    """

    name: str
    after_s: float
    times_length: float = 0.0

    def arrives_s(self, length_s: float) -> float:
        """Return after how many seconds it is there, for a picture of this length."""
        return self.after_s + self.times_length * length_s


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One step of the ladder: a rendition that is made of a picture that is large enough.

    lines: of the rendition, its shorter side. codec: as encoders are named, or AS_SENT. bit_rate:
    bits a second up to 30 frames a second; bit_rate_fast: above that, or the same. from_lines:
    how many lines the picture must have for this step; None: as many as the rendition. to_lines:
    and how many at most. stage: by its name. preset: how carefully it is coded.
    """

    lines: int
    codec: str
    bit_rate: int
    stage: str
    branch: Branch = "sdr"
    bit_rate_fast: int | None = None
    from_lines: int | None = None
    to_lines: int | None = None
    preset: str = "medium"

    @property
    def name(self) -> str:
        """Return what it is called: lines and branch."""
        return f"{self.lines} {self.branch.upper()}"

    def bits(self, rate: Fraction) -> int:
        """Return bits a second at a frame rate."""
        return (self.bit_rate_fast or self.bit_rate) if rate > 30 else self.bit_rate


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureChanges:
    """What a service does to the picture before coding.

    denoise: how far code values may differ and still be evened out, in 8-bit codes (0: not at
    all). sharpen: how much of the fine detail is added once more (0: none). crop: the shape to
    which the middle of the picture is cut. most_rate: frames above it are left out.
    """

    denoise: float = 0.0
    sharpen: float = 0.0
    crop: Size | None = None
    most_rate: Size | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sdr:
    """How HDR becomes SDR: by a curve of colour.tone_maps, or through a `.cube` of the service.

    white_nits: HDR light that becomes SDR's white; 100 for BT.2446, which is made for that.
    table: the text of a `.cube` file, from the picture's signal to BT.709's.
    """

    tone_map: str = "BT.2390"
    peak_nits: float = 1000.0
    white_nits: float = 203.0
    table: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Hdr:
    """What HDR renditions are, and what a file must say to get any.

    transfer: of the renditions (16 or 18). needs: traits that some witness must state; bit_depth
    stands for ten bits.
    """

    transfer: int = 16
    needs: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundWay:
    """What a service does to sound. loudness_lufs: where to it is turned; louder: up too."""

    codec: Literal["aac", "opus", "copy", "none"] = "aac"
    bit_rate: int = 128_000
    loudness_lufs: float | None = None
    louder: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class StandIn:
    """A simulated receiving service: `shapkeen.stand-in/1`.

    believes: by trait, of TRAITS. screens: what its viewers have, by the keys of viewers.SCREENS;
    none: any.
    """

    key: str
    name: str
    version: int
    note: str = ""
    takes: Takes
    believes: dict[str, Belief]
    stages: tuple[Stage, ...]
    ladder: tuple[Rung, ...]
    picture: PictureChanges = PictureChanges()
    sdr: Sdr = Sdr()
    hdr: Hdr | None = None
    sound: SoundWay = SoundWay()
    screens: tuple[str, ...] = ()

    def stage_named(self, name: str) -> Stage:
        """Return a stage; raises KeyError."""
        return {stage.name: stage for stage in self.stages}[name]

    @property
    def looks_at_tags(self) -> bool:
        """Return whether it believes any witness of anything."""
        return any(belief.witnesses for belief in self.believes.values())

    @property
    def plays_itself(self) -> bool:
        """Return whether it plays the file that was sent, without coding it again."""
        return any(rung.codec == AS_SENT for rung in self.ladder)
