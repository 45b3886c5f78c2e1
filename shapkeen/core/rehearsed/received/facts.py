"""What a file declares of all that services set limits to. Sizes and rates as they are stated."""

from dataclasses import dataclass
from fractions import Fraction

from ...colour.codepoints import HDR_TRANSFERS
from ...declared import AudioTrack, Declaration
from ...geometry.framing import Size
from ...judged.evidence import shown_rate
from ...judged.geometry import aspect_of
from ...promised import value_stated

ASKEW = (90, 270)


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """One file; None where nothing states it. raster: as stored; turn: clockwise, in degrees.

    bit_rate: of the whole file, bits a second. shape: shown width ÷ height, turned as it is shown.
    """

    wrapper: str
    codec: str
    level: str | None
    raster: Size | None
    aspect: Size
    turn: int
    shape: Fraction | None
    depth: int
    chroma: str
    rate: Fraction | None
    length_s: float | None
    size_bytes: int
    bit_rate: float | None
    is_interlaced: bool
    transfer: int | None
    sound: AudioTrack | None

    @property
    def light(self) -> str:
        """Return the kind of light that the file states: pq, hlg or sdr."""
        return {16: "pq", 18: "hlg"}.get(self.transfer or 1, "sdr")

    @property
    def is_hdr(self) -> bool:
        """Return whether some witness states PQ or HLG."""
        return self.transfer in HDR_TRANSFERS

    @property
    def sides(self) -> Size | None:
        """Return the long and the short side in samples."""
        return (max(self.raster), min(self.raster)) if self.raster else None


def facts_of(declared: Declaration) -> Facts:
    """Return what a file declares."""
    raster, rate = _size(declared, "raster"), shown_rate(declared)[0]
    turn, aspect = _number(declared, "rotation") or 0, aspect_of(declared)
    length = declared.video.duration_s
    if length is None and declared.video.frame_count and rate:
        length = float(declared.video.frame_count / rate)
    shape = Fraction(raster[0] * aspect[0], raster[1] * aspect[1]) if raster else None
    size = declared.file.size_bytes
    return Facts(
        wrapper=declared.file.wrapper,
        codec=declared.video.codec,
        level=declared.video.level,
        raster=raster,
        aspect=aspect,
        turn=turn % 360,
        shape=1 / shape if shape and turn % 360 in ASKEW else shape,
        depth=_number(declared, "bit_depth") or 8,
        chroma=str(value_stated(declared, "chroma") or "4:2:0"),
        rate=rate,
        length_s=length,
        size_bytes=size,
        bit_rate=size * 8 / length if length else None,
        is_interlaced=value_stated(declared, "scan") not in (None, "progressive"),
        transfer=_number(declared, "transfer"),
        sound=declared.audio[0] if declared.audio else None,
    )


def _number(declared: Declaration, trait: str) -> int | None:
    value = value_stated(declared, trait)
    return value if isinstance(value, int) else None


def _size(declared: Declaration, trait: str) -> Size | None:
    value = value_stated(declared, trait)
    return (int(value[0]), int(value[1])) if isinstance(value, tuple) else None
