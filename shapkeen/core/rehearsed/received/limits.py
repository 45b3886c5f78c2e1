"""Limits at a service's door: every fault of a file with its figure, the limit and the cure."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from operator import gt, lt

from ...geometry.codec_profiles import CHROMA_ORDER, CODEC_NAMES, WRAPPER_NAMES
from ...geometry.words import ratio_words, size_words
from ..stand_in import Takes
from .facts import Facts

SHAPE_OFF = 0.01
"""A hundredth: shapes that differ by less come of sides rounded to even samples."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One refusal or warning. code: what is meant, in short; value, limit: as people read them."""

    code: str
    text: str
    value: str
    limit: str
    cure: str


def faults_at(facts: Facts, takes: Takes) -> Iterator[Finding]:
    """Yield all that a service refuses a file for."""
    yield from _file_faults(facts, takes)
    yield from _picture_faults(facts, takes)
    yield from _time_faults(facts, takes)
    yield from _sound_faults(facts, takes)
    yield from _light_faults(facts, takes)


def _file_faults(facts: Facts, takes: Takes) -> Iterator[Finding]:
    if facts.wrapper not in takes.wrappers:
        known = listed(WRAPPER_NAMES.get(one, one) for one in takes.wrappers)
        yield Finding(
            code="wrapper",
            text="This wrapper is not taken.",
            value=WRAPPER_NAMES.get(facts.wrapper, facts.wrapper),
            limit=known,
            cure=f"Write the same picture into {known}; nothing need be coded again.",
        )
    if facts.codec not in takes.codecs:
        known = listed(CODEC_NAMES.get(one, one) for one in takes.codecs)
        yield Finding(
            code="codec",
            text="This codec is not taken.",
            value=CODEC_NAMES.get(facts.codec, facts.codec),
            limit=known,
            cure=f"Export again as {known}.",
        )
    if takes.most_bytes and facts.size_bytes > takes.most_bytes:
        yield Finding(
            code="bytes",
            text="The file is too large.",
            value=_bytes(facts.size_bytes),
            limit=f"at most {_bytes(takes.most_bytes)}",
            cure=_smaller(facts, takes.most_bytes),
        )
    if takes.most_bit_rate and facts.bit_rate and facts.bit_rate > takes.most_bit_rate:
        yield Finding(
            code="bit-rate",
            text="The bit rate is too high.",
            value=_bits(facts.bit_rate),
            limit=f"at most {_bits(takes.most_bit_rate)}",
            cure=f"Export again at {_bits(takes.most_bit_rate * 0.9)} or below.",
        )


def _smaller(facts: Facts, most_bytes: int) -> str:
    if not facts.length_s:
        return "Export again at a lower bit rate."
    return f"Export again at {_bits(most_bytes * 8 * 0.95 / facts.length_s)} or below."


def _picture_faults(facts: Facts, takes: Takes) -> Iterator[Finding]:
    yield from _raster_faults(facts, takes)
    yield from _shape_faults(facts, takes)
    if takes.most_depth and facts.depth > takes.most_depth:
        yield Finding(
            code="bit-depth",
            text="The decoder there takes no more bits.",
            value=f"{facts.depth} bits",
            limit=f"at most {takes.most_depth} bits",
            cure=f"Export again with {takes.most_depth} bits, dithered.",
        )
    if takes.chroma and facts.chroma not in takes.chroma:
        yield Finding(
            code="chroma",
            text="This chroma sampling is not taken.",
            value=facts.chroma,
            limit=listed(sorted(takes.chroma, key=CHROMA_ORDER.index)),
            cure=f"Export again as {takes.chroma[0]}.",
        )
    level = _level(facts.level)
    if takes.most_level and facts.codec in ("h264", "h265") and (level or 0) > takes.most_level:
        yield Finding(
            code="level",
            text="The decoder there is too old for this level.",
            value=f"level {facts.level}",
            limit=f"at most level {takes.most_level:g}",
            cure="Export again with a smaller raster or rate, and state that level.",
        )
    if facts.is_interlaced and not takes.interlaced:
        yield Finding(
            code="scan",
            text="Fields are not taken.",
            value="interlaced",
            limit="progressive",
            cure="Deinterlace, or export the frames as they were shot; state progressive.",
        )


def _level(text: str | None) -> float | None:
    try:
        return float(text or "")
    except ValueError:
        return None


def _raster_faults(facts: Facts, takes: Takes) -> Iterator[Finding]:
    sides = facts.sides
    if facts.raster is None or sides is None:
        return
    for name, limit, is_beyond, cure in (
        ("small", takes.least_raster, lt, "Enlarge on purpose: the plan says how."),
        ("large", takes.most_raster, gt, "Make it smaller: the plan says how."),
    ):
        if limit and any(is_beyond(a, b) for a, b in zip(sides, limit, strict=True)):
            least = "at least" if name == "small" else "at most"
            yield Finding(
                code="raster",
                text=f"The picture is too {name}.",
                value=size_words(facts.raster),
                limit=f"{least} {size_words(limit)}, either way up",
                cure=cure,
            )


def _shape_faults(facts: Facts, takes: Takes) -> Iterator[Finding]:
    if takes.square and facts.aspect[0] != facts.aspect[1]:
        yield Finding(
            code="pixel-aspect",
            text="Pictures with other than square samples are not taken.",
            value=f"{facts.aspect[0]}:{facts.aspect[1]}",
            limit="1:1",
            cure="Scale to square samples: the plan says to what raster.",
        )
    if facts.shape is None:
        return
    cure = "Cut or pad to that shape: the plan frames it."
    if takes.shape and abs(facts.shape / Fraction(*takes.shape) - 1) > SHAPE_OFF:
        limit = f"{takes.shape[0]}:{takes.shape[1]}"
        yield _shape(facts.shape, limit, cure)
        return
    low, high = (Fraction(*one) if one else None for one in (takes.least_shape, takes.most_shape))
    if low and facts.shape < low * Fraction(99, 100):
        yield _shape(facts.shape, f"at least {ratio_words(low)} : 1", cure)
    if high and facts.shape > high * Fraction(101, 100):
        yield _shape(facts.shape, f"at most {ratio_words(high)} : 1", cure)


def _shape(shape: Fraction, limit: str, cure: str) -> Finding:
    return Finding(
        code="shape",
        text="The picture has another shape than is taken.",
        value=f"{ratio_words(shape)} : 1",
        limit=limit,
        cure=cure,
    )


def _time_faults(facts: Facts, takes: Takes) -> Iterator[Finding]:
    length, limit = facts.length_s, takes.length
    if length is not None and limit.least_s is not None and length < limit.least_s - 0.05:
        yield Finding(
            code="length",
            text="The picture is too short.",
            value=f"{length:.1f} s",
            limit=f"at least {limit.least_s:g} s",
            cure="Send a longer cut.",
        )
    if length is not None and limit.most_s is not None and length > limit.most_s + 0.05:
        yield Finding(
            code="length",
            text="The picture is too long.",
            value=f"{length:.1f} s",
            limit=f"at most {limit.most_s:g} s",
            cure="Cut it into parts: a recipe's clips do that.",
        )
    if facts.rate is None:
        return
    if takes.frame_rates and facts.rate not in takes.frame_rates:
        known = listed(ratio_words(one) for one in takes.frame_rates)
        yield Finding(
            code="rate",
            text="This frame rate is not taken.",
            value=f"{ratio_words(facts.rate)} frames/s",
            limit=f"{known} frames/s",
            cure="Convert the rate where the picture is made; nothing here changes it well.",
        )
    if takes.most_rate and facts.rate > Fraction(*takes.most_rate):
        yield Finding(
            code="rate",
            text="The frame rate is too high.",
            value=f"{ratio_words(facts.rate)} frames/s",
            limit=f"at most {ratio_words(Fraction(*takes.most_rate))} frames/s",
            cure="Export every second frame, or convert the rate where the picture is made.",
        )


def _sound_faults(facts: Facts, takes: Takes) -> Iterator[Finding]:
    sound, limit = facts.sound, takes.sound
    if sound is None:
        if limit.needed:
            yield Finding(
                code="sound",
                text="There must be sound.",
                value="no sound track",
                limit="one at least",
                cure="Export with sound; where there is none, with a silent track.",
            )
        return
    if limit.codecs and not sound.codec.startswith(limit.codecs):
        known = listed(one.upper() for one in limit.codecs)
        yield Finding(
            code="sound-codec",
            text="This sound is not taken.",
            value=sound.codec.upper(),
            limit=known,
            cure=f"Write the sound as {known}; the picture can be copied.",
        )
    hertz = sound.sample_rate_hz
    if limit.sample_rates and hertz and hertz not in limit.sample_rates:
        known = listed(f"{one / 1000:g}" for one in limit.sample_rates)
        yield Finding(
            code="sound-rate",
            text="The sound is sampled otherwise than is taken.",
            value=f"{hertz / 1000:g} kHz",
            limit=f"{known} kHz",
            cure=f"Resample the sound to {known} kHz; the picture can be copied.",
        )
    if limit.most_channels and sound.channels and sound.channels > limit.most_channels:
        yield Finding(
            code="sound-channels",
            text="The sound has too many channels.",
            value=f"{sound.channels} channels",
            limit=f"at most {limit.most_channels}",
            cure=f"Mix the sound down to {limit.most_channels} channels.",
        )


def _light_faults(facts: Facts, takes: Takes) -> Iterator[Finding]:
    if facts.light in takes.light or takes.other_light != "refuse":
        return
    known = listed(one.upper() for one in takes.light)
    yield Finding(
        code="light",
        text="This kind of light is not taken.",
        value=facts.light.upper(),
        limit=known,
        cure=f"Make a version in {known} from the master.",
    )


def listed(words: Iterable[object]) -> str:
    """Return words as a sentence lists what may be chosen."""
    names = [str(one) for one in words]
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} or {names[-1]}"


def _bytes(count: float) -> str:
    for unit, size in (("GB", 1e9), ("MB", 1e6)):
        if count >= size:
            return f"{count / size:.3g} {unit}"
    return f"{count / 1e3:.3g} kB"


def _bits(rate: float) -> str:
    return f"{rate / 1e6:.3g} Mb/s"
