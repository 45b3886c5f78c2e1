"""A recipe: everything needed to make one version from a master. `shapkeen.recipe/1`."""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Literal

from ...declared import TraitValue
from ...promised import Promise, Promised
from .naming import USUAL_PATTERN
from .picture.burning import NOTHING, BurnIn
from .picture.conversion import BT2390

SoundCodec = Literal["copy", "aac", "pcm", "opus", "none"]
SoundChannels = Literal[1, 2]
SoundRate = Literal[44_100, 48_000, 96_000]


@dataclass(frozen=True, slots=True, kw_only=True)
class Coding:
    """How the picture is coded.

    crf: constant quality on the encoder's own scale; bit_rate: bits a second in place of it; with
    neither, the encoder's usual quality. passes: 2 looks at all of it first, for a bit rate.
    preset: how carefully, as encoders.SPEEDS names it. keyframes_s: the most seconds between
    pictures that need no other. bit_depth, chroma: where the profile carries several.
    """

    codec: str
    profile: str = ""
    crf: float | None = None
    bit_rate: int | None = None
    passes: int = 1
    preset: str = "medium"
    keyframes_s: float = 2.0
    bit_depth: int | None = None
    chroma: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Sound:
    """What becomes of the sound.

    loudness_lufs: the target by ITU-R BS.1770; channels, sample_rate: what it is mixed down and
    resampled to. None as it is.
    """

    codec: SoundCodec = "copy"
    bit_rate: int = 320_000
    loudness_lufs: float | None = None
    channels: SoundChannels | None = None
    sample_rate: SoundRate | None = None

    @property
    def is_changed(self) -> bool:
        """Return whether samples are changed, which copied ones cannot be."""
        return any((self.loudness_lufs is not None, self.channels, self.sample_rate))


@dataclass(frozen=True, slots=True, kw_only=True)
class Light:
    """How light is converted where the promise asks for another kind.

    tone_map: of colour.tone_maps, for HDR that becomes SDR; peak_nits: the brightest that is told
    apart; white_nits: HDR light that becomes SDR's white. table: a look-up table that is put in on
    purpose, in place of any conversion: from the master's signal to the version's, packed as text
    (colour.packed_table); table_name: its file's.
    """

    tone_map: str = BT2390
    peak_nits: float = 1000.0
    white_nits: float = 203.0
    table: str = ""
    table_name: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Scaling:
    """How the picture is scaled: by Lanczos's kernel over coded signals, or over light."""

    linear: bool = False


@dataclass(frozen=True, slots=True)
class Clip:
    """A part of the master that becomes a file of its own: frames, end not included."""

    name: str
    first: int
    end: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Recipe:
    """One recipe. promise: the traits that it asks for, beside what the master's promise says.

    burn_in: timecode and text that are burnt in. first, end: frames of the master, end not
    included; None to its own ends. clips: parts that each become a file, in place of these marks.
    file: the pattern of file names (naming.py). fragments: whether an MP4 or MOV is
    written in fragments, each with an index of its own. specification: the key of the delivery
    specification that it was made for.
    """

    name: str
    coding: Coding
    wrapper: str
    promise: Promise = field(default_factory=lambda: Promise(traits={}))
    specification: str = ""
    sound: Sound = Sound()
    light: Light = Light()
    scaling: Scaling = Scaling()
    burn_in: BurnIn = NOTHING
    first: int | None = None
    end: int | None = None
    clips: tuple[Clip, ...] = ()
    file: str = USUAL_PATTERN
    fragments: bool = False

    @property
    def files(self) -> tuple["Recipe", ...]:
        """Return a recipe for each file that this one makes: one for each clip, or itself."""
        if not self.clips:
            return (self,)
        return tuple(
            replace(self, name=f"{self.name} {c.name}", first=c.first, end=c.end, clips=())
            for c in self.clips
        )

    def asks(self, frames: int | None) -> Promise:
        """Return what a version is held to beside the master's promise: the traits, and the marks.

        frames: the master's, where they are known.
        """
        asked = {
            name: Promised(value=value, origin=f"recipe {self.name}", explicit=True)
            for name, value in self._asked(frames)
            if name not in self.promise.traits
        }
        return Promise(traits={**self.promise.traits, **asked})

    def _asked(self, frames: int | None) -> Iterator[tuple[str, TraitValue]]:
        """Yield the traits that follow from the marks, and from what becomes of the sound."""
        end = self.end if self.end is not None else frames
        if end is not None and not (self.first is None and self.end is None):
            yield "frames", {"in": self.first or 0, "out": end}
        if self.light.table:
            name = self.light.table_name or "a table"
            yield "tone", {"table": name, "values": self.light.table}
        if self.sound.codec == "none":
            yield "sound", "none"
        if self.sound.loudness_lufs is not None:
            yield "loudness", self.sound.loudness_lufs
        if self.sound.channels is not None:
            yield "sound_channels", self.sound.channels
        if self.sound.sample_rate is not None:
            yield "sound_sampling", self.sound.sample_rate
