"""What is being planned for: a master's own facts, as players take them."""

from dataclasses import dataclass
from fractions import Fraction

from ...colour.codepoints import HDR_TRANSFERS, TRANSFERS
from ...declared import Declaration, TraitValue
from ...errors import UsageError
from ...geometry.framing import ImpossibleError, Size, shown_shape
from ...geometry.packing import PACKINGS, Packing
from ..stated import stated_by

HLG = 18


@dataclass(frozen=True, slots=True, kw_only=True)
class Subject:
    """A master: stored raster, pixel aspect, frames a second, and what it says of its light.

    frames, duration_s: None where the file does not tell. projection, stereo: "" where silent.
    """

    name: str
    raster: Size
    aspect: Size
    rate: Fraction
    frames: int | None
    duration_s: float | None
    codec: str
    wrapper: str
    transfer: int | None
    primaries: int | None
    bit_depth: int
    chroma: str
    full_range: bool
    projection: str
    stereo: str
    mastered_on: TraitValue | None
    content_light: TraitValue | None
    has_sound: bool = True
    matrix: int | None = None

    @property
    def shape(self) -> Fraction:
        """Return shown width ÷ height of one eye's picture."""
        return shown_shape(self.eye, self.aspect) * self.packing.stretch()

    @property
    def packing(self) -> Packing:
        """Return how its eyes are packed; full where that cannot be told from the tag alone."""
        packed = {"right-left": "left-right", "bottom-top": "top-bottom"}.get(
            self.stereo, self.stereo
        )
        return next((one for one in PACKINGS if one.stereo == packed), PACKINGS[0])

    @property
    def eye(self) -> Size:
        """Return the raster of one eye, the whole one's for a picture of one eye."""
        return self.packing.eye(self.raster)

    @property
    def light(self) -> str:
        """Return the kind of light as specifications name it: pq, hlg or sdr."""
        if self.transfer not in HDR_TRANSFERS:
            return "sdr"
        return "hlg" if self.transfer == HLG else "pq"

    @property
    def light_words(self) -> str:
        """Return the transfer function as the trade calls it."""
        return TRANSFERS.get(self.transfer or 2, f"code {self.transfer}")


def subject_of(master: Declaration) -> Subject:
    """Return what a master is; raises UsageError where it has no raster or an impossible one."""
    raster, aspect = _pair(master, "raster"), _pair(master, "pixel_aspect") or (1, 1)
    if raster is None:
        raise UsageError(
            "The master states no raster, so nothing can be planned. Export it again.",
            code="no-raster",
            where=master.file.name,
        )
    try:
        shown_shape(raster, aspect)
    except ImpossibleError as error:
        raise UsageError(str(error), code="bad-geometry", where=master.file.name) from error
    video = master.video
    return Subject(
        name=master.file.name,
        raster=raster,
        aspect=aspect,
        rate=_rate_of(master),
        frames=video.frame_count,
        duration_s=video.duration_s,
        codec=video.codec or "",
        wrapper=master.file.wrapper,
        transfer=_whole(master, "transfer"),
        primaries=_whole(master, "primaries"),
        bit_depth=_whole(master, "bit_depth") or 8,
        chroma=str(_said(master, "chroma") or "4:2:0"),
        full_range=_said(master, "range") == "full",
        projection=str(_said(master, "projection") or ""),
        stereo=str(_said(master, "stereo") or ""),
        mastered_on=_said(master, "mastering_display"),
        content_light=_said(master, "content_light"),
        has_sound=bool(master.audio),
        matrix=_whole(master, "matrix"),
    )


def _said(master: Declaration, trait: str) -> TraitValue | None:
    said = stated_by(master, trait)
    return said[1].value if said else None


def _whole(master: Declaration, trait: str) -> int | None:
    value = _said(master, trait)
    return value if isinstance(value, int) else None


def _pair(master: Declaration, trait: str) -> Size | None:
    value = _said(master, trait)
    if isinstance(value, tuple) and len(value) == 2:
        return int(value[0]), int(value[1])
    return None


def _rate_of(master: Declaration) -> Fraction:
    """Return frames a second: as stated, else on average, else 25."""
    stated = _pair(master, "frame_rate")
    if stated and all(stated):
        return Fraction(*stated)
    video = master.video
    if video.frame_count and video.duration_s:
        return Fraction(video.frame_count / video.duration_s).limit_denominator(1001)
    return Fraction(25)
