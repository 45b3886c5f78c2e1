"""A specification in words."""

from collections.abc import Iterator
from fractions import Fraction

from ...core.colour.codepoints import TRANSFERS
from ...core.geometry.codec_profiles import CODEC_NAMES
from ...core.geometry.words import ratio_words, size_words
from ...core.promised.specification import LIGHTS, Specification


def specification_summary(spec: Specification) -> dict[str, str]:
    """Return the four things that specifications are told apart by."""
    return {
        "sizes": _sizes(spec) or "any",
        "light": _light(spec),
        "codecs": ", ".join(dict.fromkeys(CODEC_NAMES[c.codec] for c in spec.codecs)),
        "limits": "; ".join(_limits(spec)) or "none",
    }


def specification_lines(spec: Specification) -> list[tuple[str, str]]:
    """Return all that a specification asks for, as name and value in words."""
    lines = [
        ("Sizes", f"{_sizes(spec)} samples" if spec.rasters else "any"),
        ("Shown shape", f"{spec.shape[0]}:{spec.shape[1]}" if spec.shape else "the picture's own"),
        ("Bars in the picture", "taken" if spec.bars else "refused"),
        ("Pixel aspect", "square only" if spec.square else "kept as mastered"),
        ("Light", _light(spec)),
        ("Bit depth and chroma", f"{spec.bit_depth} bits, {spec.chroma}"),
        ("Codecs", ", ".join(f"{CODEC_NAMES[c.codec]} {c.profile}" for c in spec.codecs)),
        ("Wrappers", ", ".join(spec.wrappers)),
        ("Bit rate", "; ".join(_bit_rates(spec))),
        ("Frame rates", _rates(spec)),
        ("Limits", "; ".join(_limits(spec)) or "none"),
    ]
    if spec.projection:
        lines.append(("Projection", spec.projection))
    if spec.packings:
        lines.append(("Eyes", "; ".join(spec.packings)))
    if spec.sound:
        sound = f"{spec.sound.codec.upper()}, {spec.sound.sample_rate / 1000:g} kHz"
        lines.append(("Sound", f"{sound}, {spec.sound.bit_rate / 1000:g} kb/s"))
    if spec.better_from_lines:
        lines.append(("Encodes with more care", f"from {spec.better_from_lines} lines up"))
    if spec.softens:
        lines.append(("Its own encoding", "softens fine structure"))
    return lines


def _sizes(spec: Specification) -> str:
    if spec.rasters:
        return ", ".join(map(size_words, spec.rasters))
    return f"up to {size_words(spec.most_raster)}" if spec.most_raster else ""


def _light(spec: Specification) -> str:
    words = ["SDR" if kind == "sdr" else TRANSFERS[LIGHTS[kind]] for kind in spec.light]
    peak = f", mastered at {spec.peak_nits} cd/m²" if spec.peak_nits else ""
    return " or ".join(words) + peak


def _bit_rates(spec: Specification) -> Iterator[str]:
    rates = spec.bit_rate
    yield f"about {rates.target / 1e6:g} Mb/s"
    if rates.least:
        yield f"at least {rates.least / 1e6:g}"
    if rates.most:
        yield f"at most {rates.most / 1e6:g}"


def _rates(spec: Specification) -> str:
    if spec.rates:
        return f"{', '.join(map(ratio_words, spec.frame_rates))} frames/s"
    if spec.most_rate:
        return f"at most {ratio_words(Fraction(*spec.most_rate))} frames/s"
    return "as mastered"


def _limits(spec: Specification) -> Iterator[str]:
    least, most = spec.length.least_s, spec.length.most_s
    if least and most:
        yield f"{least:g} to {most:g} s"
    elif least or most:
        yield f"at most {most:g} s" if most else f"at least {least:g} s"
    if spec.most_bytes:
        yield f"at most {spec.most_bytes / 1e6:g} MB"
