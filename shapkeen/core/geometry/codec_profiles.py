"""Carriers: which codecs, profiles and levels can carry a picture, and why the others cannot.

Sources of profiles: ITU-T H.264 annex A.2 and H.265 annex A.3 (range extensions), AV1
specification annex A.2, VP9 bitstream specification 7.2. Data rates of the mezzanine codecs: common
practice, their makers' rounded figures at 1920×1080 and 30000/1001 frames/s, from memory.
"""

from dataclasses import dataclass
from fractions import Fraction

from .framing import Size
from .levels import BIT_RATE_FACTORS, LEVELS, ROOMY_FACTOR, Level, excesses

CHROMA_ORDER = ("4:0:0", "4:2:0", "4:2:2", "4:4:4")
HD_SAMPLES_A_SECOND = 1920 * 1080 * 30000 / 1001


@dataclass(frozen=True, slots=True)
class Profile:
    """One profile of a codec: its most bits a sample, its finest chroma sampling.

    least_chroma, least_depth: what it cannot go below. mezzanine_rate: bits a second at
    1920×1080 and 29.97 frames/s, where the profile itself sets the rate.
    """

    codec: str
    name: str
    depth: int
    chroma: str
    least_chroma: str = "4:2:0"
    least_depth: int = 8
    mezzanine_rate: int = 0

    def usual_rate(self, raster: Size, rate: Fraction) -> float:
        """Return the bit rate that the profile sets for a raster and rate; 0 where it sets none."""
        samples = raster[0] * raster[1] * float(rate)
        return self.mezzanine_rate * samples / HD_SAMPLES_A_SECOND


PROFILES = (
    Profile("h264", "Main", 8, "4:2:0"),
    Profile("h264", "High", 8, "4:2:0"),
    Profile("h264", "High 10", 10, "4:2:0"),
    Profile("h264", "High 4:2:2", 10, "4:2:2"),
    Profile("h265", "Main", 8, "4:2:0"),
    Profile("h265", "Main 10", 10, "4:2:0"),
    Profile("h265", "Main 12", 12, "4:2:0"),
    Profile("h265", "Main 4:2:2 10", 10, "4:2:2"),
    Profile("av1", "Main", 10, "4:2:0"),
    Profile("av1", "Professional", 12, "4:2:2"),
    Profile("vp9", "0", 8, "4:2:0"),
    Profile("vp9", "2", 12, "4:2:0", least_depth=10),
    Profile("prores", "422 LT", 10, "4:2:2", "4:2:2", 10, 102_000_000),
    Profile("prores", "422", 10, "4:2:2", "4:2:2", 10, 147_000_000),
    Profile("prores", "422 HQ", 10, "4:2:2", "4:2:2", 10, 220_000_000),
    Profile("prores", "4444", 12, "4:4:4", "4:4:4", 10, 330_000_000),
    Profile("vc3", "HQ", 8, "4:2:2", "4:2:2", 8, 220_000_000),
    Profile("vc3", "HQX", 12, "4:2:2", "4:2:2", 10, 220_000_000),
)
MEZZANINE = frozenset({"prores", "vc3"})
CODEC_NAMES = {
    "h264": "H.264",
    "h265": "H.265",
    "av1": "AV1",
    "vp9": "VP9",
    "prores": "ProRes",
    "vc3": "VC-3",
}


WRAPPER_NAMES = {
    "mp4": "MP4",
    "mov": "MOV",
    "matroska": "Matroska",
    "webm": "WebM",
    "mxf": "MXF",
    "mpegts": "MPEG-2 transport stream",
    "avi": "AVI",
    "flv": "FLV",
}


@dataclass(frozen=True, slots=True)
class Wanted:
    """What has to be carried: stored raster, frames a second, bits, chroma, bits a second."""

    raster: Size
    rate: Fraction
    depth: int
    chroma: str
    bit_rate: int


@dataclass(frozen=True, slots=True)
class CodecProfile:
    """What one profile makes of it: the smallest level that fits, or why it cannot.

    tier: "main" or "high" where the codec has tiers. refusal: "" where the picture fits.
    """

    profile: Profile
    level: str = ""
    tier: str = ""
    refusal: str = ""

    @property
    def fits(self) -> bool:
        """Return whether the profile carries the picture."""
        return not self.refusal

    @property
    def title(self) -> str:
        """Return codec and profile as the trade calls them."""
        return f"{CODEC_NAMES[self.profile.codec]} {self.profile.name}"


def codec_profiles_of(wanted: Wanted) -> tuple[CodecProfile, ...]:
    """Return every known profile with the level that carries the picture, or its refusal."""
    return tuple(codec_profile_of(profile, wanted) for profile in PROFILES)


def codec_profile_of(profile: Profile, wanted: Wanted) -> CodecProfile:
    """Return what one profile makes of a picture."""
    refusal = _refused_samples(profile, wanted)
    if refusal:
        return CodecProfile(profile, refusal=refusal)
    if profile.codec in MEZZANINE:
        return CodecProfile(profile)
    found = fitting_level(profile, wanted)
    if found is None:
        return CodecProfile(profile, refusal=_past_the_largest(profile, wanted))
    return CodecProfile(profile, level=found[0].name, tier=found[1])


def _refused_samples(profile: Profile, wanted: Wanted) -> str:
    order = CHROMA_ORDER.index
    if wanted.depth > profile.depth:
        return f"carries {profile.depth} bits at most; {wanted.depth} are wanted"
    if wanted.depth < profile.least_depth:
        return f"is for {profile.least_depth} bits and more; {wanted.depth} are wanted"
    if order(wanted.chroma) > order(profile.chroma):
        return f"carries {profile.chroma} at most; {wanted.chroma} is wanted"
    if order(wanted.chroma) < order(profile.least_chroma):
        return f"is {profile.least_chroma} only; {wanted.chroma} is wanted"
    return ""


def fitting_level(profile: Profile, wanted: Wanted) -> tuple[Level, str] | None:
    """Return the smallest level that carries a picture, and its tier; None where none does.

    Within a level the main tier comes first: the high tier asks more of decoders.
    """
    for level in LEVELS[profile.codec]:
        if excesses(profile.codec, level.name, raster=wanted.raster, rate=wanted.rate):
            continue
        if wanted.bit_rate <= ceiling(profile, level, high_tier=False):
            return level, "main" if _has_tiers(profile.codec) else ""
        if level.bit_rate_high and wanted.bit_rate <= ceiling(profile, level, high_tier=True):
            return level, "high"
    return None


def ceiling(profile: Profile, level: Level, *, high_tier: bool) -> float:
    """Return the most bits a second that a level allows a profile."""
    tier = (level.bit_rate_high if high_tier else None) or level.bit_rate
    return tier * BIT_RATE_FACTORS.get(profile.codec, {}).get(profile.name, ROOMY_FACTOR)


def _has_tiers(codec: str) -> bool:
    return codec in ("h265", "av1")


def _past_the_largest(profile: Profile, wanted: Wanted) -> str:
    largest = LEVELS[profile.codec][-1]
    found = excesses(profile.codec, largest.name, raster=wanted.raster, rate=wanted.rate)
    if found:
        one = found[0]
        what = f"{one.what}: {one.value:,.0f} of {one.limit:,.0f} {one.unit}"
        return f"no level is large enough ({what.replace(',', ' ')})"
    most = ceiling(profile, largest, high_tier=True) / 1e6
    return (
        f"no level allows {wanted.bit_rate / 1e6:.1f} Mb/s; level {largest.name} ends at {most:g}"
    )
