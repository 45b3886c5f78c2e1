"""The settings sheet: every setting to make, in words that any editing program understands.

Kept with the delivery, so that the export that comes back is held against it setting by setting.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import cattrs

from ...colour.codepoints import MATRICES, PRIMARIES, TRANSFERS
from ...geometry.codec_profiles import CODEC_NAMES, MEZZANINE
from ...geometry.framing import STEPS
from ...geometry.timecode import timecode_of
from ...geometry.words import ratio_words
from ..specification import LIGHTS
from .plan import Plan
from .promising import PRIMARIES as PRIMARIES_OF_LIGHT
from .warning import SHAPES_ALIKE

MATRIX_OF_PRIMARIES = {1: 1, 5: 5, 6: 6, 9: 9, 12: 1}
"""H.273 code points: the luma–chroma matrix that goes with primaries. P3-D65 has none of its own,
and takes BT.709's (common practice, no source)."""
STATED = "stated"
"""Wanted of a fact that must only be there, whatever its value."""
PICTURE, TIME, CODING, COLOUR, SOUND, FILE = (
    "Picture",
    "Time",
    "Coding",
    "Light and colour",
    "Sound",
    "File",
)


@dataclass(frozen=True, slots=True)
class Setting:
    """One setting: group, name, value in words, and why where that is not plain.

    fact: what of the returned file tells it (judged/returned.py), "" where nothing does; wanted:
    the value to find there, in JSON's forms; STATED where any will do.
    """

    group: str
    name: str
    value: str
    why: str = ""
    fact: str = ""
    wanted: Any = None


@dataclass(frozen=True, slots=True)
class Sheet:
    """All settings of one plan, and for which specification and version they were made."""

    specification: str
    version: int
    master: str
    settings: tuple[Setting, ...]

    @property
    def groups(self) -> list[tuple[str, list[Setting]]]:
        """Return group → settings, in order."""
        names = list(dict.fromkeys(setting.group for setting in self.settings))
        return [(name, [s for s in self.settings if s.group == name]) for name in names]


def sheet_of(plan: Plan) -> Sheet:
    """Return the complete list of settings of a plan."""
    parts = (_picture, _time, _coding, _colour, _sound, _file)
    settings = tuple(setting for part in parts for setting in part(plan))
    spec = plan.specification
    return Sheet(spec.name, spec.version, plan.subject.name, settings)


def sheet_to_object(sheet: Sheet) -> dict[str, Any]:
    """Return the sheet in JSON's forms."""
    made: dict[str, Any] = cattrs.unstructure(sheet)
    return made


def sheet_from_object(data: Mapping[str, Any]) -> Sheet:
    """Return the sheet that was kept in JSON's forms."""
    return cattrs.structure(data, Sheet)


def _size(size: tuple[int, int]) -> str:
    return f"{size[0]} × {size[1]} samples"


def _picture(plan: Plan) -> Iterator[Setting]:
    layout, subject = plan.layout, plan.subject
    even = {(2, 2): "even sides, as 4:2:0 wants them", (2, 1): "an even width, as 4:2:2 wants it"}
    why = even.get(STEPS[plan.specification.chroma], "")
    yield Setting(PICTURE, "Frame size", _size(layout.frame), why, "raster", list(layout.frame))
    h, v = layout.aspect
    why = "squeezed as the master; the flag must reach the viewer" if (h, v) != (1, 1) else ""
    yield Setting(PICTURE, "Pixel aspect", f"{h}:{v}", why, "pixel_aspect", list(layout.aspect))
    if plan.specification.packings:
        name = plan.choices.packing
        yield Setting(PICTURE, "Eyes", f"{name}, left eye first", "", "stereo", plan.stereo)
        yield Setting(PICTURE, "Each eye", _size(layout.cell))
    yield from _placing(plan)
    across, down = layout.scale
    if across == down == 1:
        yield Setting(PICTURE, "Scaling", "none; full size", "no filter may touch the samples")
    elif abs(across / down - 1) < SHAPES_ALIKE:
        yield Setting(PICTURE, "Scaling", f"{float(down):.4g} times, sharp kernel (cubic)")
    else:
        words = f"{float(across):.4g} across, {float(down):.4g} down, sharp kernel (cubic)"
        yield Setting(PICTURE, "Scaling", words, f"from pixel aspect {_pair(subject.aspect)}")
    if plan.choices.sharpen:
        why = "the service softens; agreed in the promise"
        yield Setting(PICTURE, "Sharpening", "a little, radius 1 sample, amount 0.3", why)
    yield Setting(PICTURE, "Scan", "progressive", "", "scan", "progressive")
    if plan.specification.projection:
        kind = plan.specification.projection
        yield Setting(
            PICTURE, "Projection", kind, "in the file, not only in its name", "projection", kind
        )


def _pair(pair: tuple[int, int]) -> str:
    return f"{pair[0]}:{pair[1]}"


def _placing(plan: Plan) -> Iterator[Setting]:
    layout, crop = plan.layout, plan.layout.crop
    if layout.has_bars:
        bars = ", ".join(f"{side} {count}" for side, count in layout.bars.items() if count)
        yield Setting(PICTURE, "Bars", f"black, in samples: {bars}", "", "framing")
        yield Setting(PICTURE, "Zoom", "whole picture visible")
        return
    if not layout.is_cut:
        yield Setting(PICTURE, "Framing", "the whole picture, no bars", "", "framing")
        return
    words = f"{crop.width} × {crop.height} of the master at x {crop.left}, y {crop.top}"
    yield Setting(PICTURE, "Cut", words, f"{layout.kept_share * 100:.0f} % kept", "framing")
    yield Setting(
        PICTURE, "Zoom", f"{layout.zoom:.4g}", "1 = the whole picture just fits the frame"
    )
    for shot in plan.choices.shots:
        x, y, _, _ = plan.crop_of(shot)
        yield Setting(
            PICTURE, f"Cut, frames {shot.first} to {shot.last}", f"at x {x}, y {y}", "", "framing"
        )


def _time(plan: Plan) -> Iterator[Setting]:
    rate, own = plan.choices.rate, plan.subject.rate
    why = "as the master" if rate == own else f"the master has {_rate(own)}"
    yield Setting(
        TIME,
        "Frame rate",
        f"{_rate(rate)} frames/s, constant",
        why,
        "frame_rate",
        [rate.numerator, rate.denominator],
    )
    if plan.changes_speed:
        words = f"{float(plan.speed) * 100:.4g} %, each frame of the master once"
        yield Setting(TIME, "Speed", words, "picture and sound together; pitch set back")
    elif plan.is_rate_changed:
        yield Setting(TIME, "Speed", "100 %, frames repeated or left out", "movement stutters")
    frames = plan.frames
    if frames:
        yield Setting(
            TIME,
            "Mark in and out",
            f"{_part(plan)}, {frames} in all",
            "else an empty tail goes along",
            "frames",
            frames,
        )


def _part(plan: Plan) -> str:
    own = plan.subject.frames
    if not plan.choices.is_marked or own is None:
        return "first to last frame"
    first, end = plan.choices.marks(own)
    rate = plan.subject.rate
    times = f"{timecode_of(first, rate)} to {timecode_of(end - 1, rate)}"
    return f"{times}, frames {first} to {end - 1} of the master"


def _rate(rate: Fraction) -> str:
    decimal = ratio_words(rate)
    return decimal if rate.denominator == 1 else f"{decimal} ({rate.numerator}/{rate.denominator})"


def _coding(plan: Plan) -> Iterator[Setting]:
    coding, codec_profile = plan.choices.coding, plan.codec_profile
    yield Setting(CODING, "Codec", CODEC_NAMES[coding.codec], "", "codec", coding.codec)
    yield Setting(CODING, "Profile", coding.profile, "", "profile", coding.profile)
    if codec_profile.level:
        tier = f", {codec_profile.tier} tier" if codec_profile.tier else ""
        why = "the smallest that carries it"
        yield Setting(CODING, "Level", f"{codec_profile.level}{tier}", why)
    spec = plan.specification
    yield Setting(CODING, "Bit depth", f"{spec.bit_depth} bits", "", "bit_depth", spec.bit_depth)
    yield Setting(CODING, "Chroma sampling", spec.chroma, "", "chroma", spec.chroma)
    if coding.codec not in MEZZANINE:
        rate = plan.choices.bit_rate
        words = f"{rate / 1e6:g} Mb/s, variable, two passes"
        most = f"peak a little above, {rate * 1.2 / 1e6:.3g} Mb/s"
        yield Setting(CODING, "Bit rate", words, most, "bit_rate", rate)


def _colour(plan: Plan) -> Iterator[Setting]:
    subject = plan.subject
    transfer, primaries = subject.transfer, subject.primaries
    # RGB has no matrix, and goes out with that of its primaries.
    matrix = subject.matrix or MATRIX_OF_PRIMARIES.get(primaries or 0)
    if plan.is_light_converted:
        transfer, primaries = LIGHTS[plan.light], PRIMARIES_OF_LIGHT[plan.light]
        matrix = primaries
        yield Setting(
            COLOUR,
            "Conversion",
            f"{subject.light_words} to {TRANSFERS[transfer]}",
            "picture and tags together",
        )
    for name, fact, value, names in (
        ("Transfer function", "transfer", transfer, TRANSFERS),
        ("Primaries", "primaries", primaries, PRIMARIES),
        ("Matrix coefficients", "matrix", matrix, MATRICES),
    ):
        if value is None:
            yield Setting(
                COLOUR, name, "as graded; the master does not say", "state it in the file"
            )
            continue
        why = f"H.273 code {value}"
        yield Setting(COLOUR, name, names.get(value, str(value)), why, fact, value)
    depth = plan.specification.bit_depth
    black, white = 16 << (depth - 8), 235 << (depth - 8)
    levels = f"levels {black} to {white} in {depth} bits"
    yield Setting(COLOUR, "Range", "limited", levels, "range", "limited")
    if plan.light == "pq":
        yield from _mastering(plan)


def _mastering(plan: Plan) -> Iterator[Setting]:
    words = "as the master states it"
    peak = plan.specification.peak_nits
    if plan.subject.mastered_on is None:
        words = f"as graded{f', at most {peak} cd/m²' if peak else ''}"
    yield Setting(COLOUR, "Mastering display", words, "", "mastering_display", STATED)
    light = plan.subject.content_light
    words = "as measured"
    if isinstance(light, Mapping):
        words = f"{light.get('max_cll')} and {light.get('max_fall')} cd/m²"
    yield Setting(COLOUR, "MaxCLL and MaxFALL", words, "", "content_light", STATED)


def _sound(plan: Plan) -> Iterator[Setting]:
    sound = plan.specification.sound
    if sound is None or not plan.subject.has_sound:
        return
    rate, channels = sound.sample_rate, sound.channels
    yield Setting(SOUND, "Sound codec", sound.codec.upper(), "", "sound_codec", sound.codec)
    words = f"{rate / 1000:g} kHz, {channels} channel{'' if channels == 1 else 's'}"
    yield Setting(SOUND, "Sound sampling", words, "", "sound_form", [rate, channels])
    yield Setting(SOUND, "Sound bit rate", f"{sound.bit_rate / 1000:g} kb/s")
    if sound.loudness_lufs is not None:
        words = f"{sound.loudness_lufs:g} LUFS ± {sound.loudness_off_lu:g} LU"
        yield Setting(SOUND, "Loudness", words, "of the whole, ITU-R BS.1770", "loudness", True)
    if sound.most_peak_dbtp is not None:
        yield Setting(
            SOUND, "True peak", f"{sound.most_peak_dbtp:g} dBTP at most", "", "true_peak", True
        )
    if sound.most_range_lu is not None:
        yield Setting(
            SOUND,
            "Loudness range",
            f"{sound.most_range_lu:g} LU at most",
            "",
            "loudness_range",
            True,
        )


def _file(plan: Plan) -> Iterator[Setting]:
    spec = plan.specification
    words = " or ".join(spec.wrappers)
    yield Setting(FILE, "Wrapper", words, "", "wrapper", list(spec.wrappers))
    if spec.wrappers[0] in ("mp4", "mov"):
        why = "playback begins before the whole file has arrived"
        yield Setting(FILE, "Index", "before the picture", why, "index_first", True)
    if spec.most_bytes:
        words = f"at most {spec.most_bytes / 1e6:g} MB"
        yield Setting(FILE, "Size", words, "", "most_bytes", spec.most_bytes)
    yield Setting(FILE, "Folder and name", "check both again before starting", "they revert")
