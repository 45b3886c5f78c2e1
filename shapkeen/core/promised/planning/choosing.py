"""Making choices: the first ones by themselves, others from what someone filled in."""

import re
from collections.abc import Mapping
from dataclasses import replace
from fractions import Fraction
from itertools import pairwise

from ...errors import UsageError
from ...geometry.codec_profiles import Wanted, codec_profile_of
from ...geometry.framing import ImpossibleError, Size, is_whole
from ...geometry.timecode import frame_of
from ..specification import Coding, Specification
from .choices import MODES, RATE_WAYS, SQUEEZES, Choices, Shot
from .layout import Layout, layout_of, sizes_of
from .subject import Subject

MOST_FRAMES = 1 << 31
MOST_SHOTS = 500
MOST_RATE = 1000
RATE = re.compile(r"(\d{1,7})(?:/([1-9]\d{0,6}))?")


def first_choices(subject: Subject, spec: Specification) -> Choices:
    """Return the choices that an experienced editor would begin with."""
    squeeze = "resample" if spec.square or subject.aspect == (1, 1) else "flag"
    packing = (spec.packings or ("one eye",))[0]
    mode = "own"
    if spec.shape or packing != "one eye":
        mode = "bars" if spec.bars else "fill"
    start = Choices(
        size=(1, 1),
        mode=mode,
        squeeze=squeeze,
        coding=spec.codecs[0],
        bit_rate=spec.bit_rate.target,
        rate=_best_rate(subject, spec),
        packing=packing,
    )
    start = replace(start, size=_best_size(subject, spec, start))
    return replace(start, coding=_best_coding(subject, spec, start))


def _best_rate(subject: Subject, spec: Specification) -> Fraction:
    """Return the master's own rate where it is taken, else the nearest one that is."""
    if spec.frame_rates:
        return min(spec.frame_rates, key=lambda rate: abs(rate - subject.rate))
    if spec.most_rate and subject.rate > Fraction(*spec.most_rate):
        halves = subject.rate / 2
        return halves if halves <= Fraction(*spec.most_rate) else Fraction(*spec.most_rate)
    return subject.rate


def _best_size(subject: Subject, spec: Specification, start: Choices) -> Size:
    """Return the size that keeps most: the largest that needs no enlargement, or a whole one."""

    def worth(size: Size) -> tuple[float, ...]:
        layout = layout_of(subject, spec, replace(start, size=size))
        ratio = layout.enlargement
        lines = layout.frame[1]
        cared = not spec.better_from_lines or lines >= spec.better_from_lines
        if ratio <= 1:
            return (3.0 if cared else 1.0, lines)
        return (2.0 if is_whole(ratio) and ratio <= 2 else 0.0, -float(ratio))

    sizes = sizes_of(subject, spec, start.squeeze, start.packing)
    return max(sizes, key=worth)


def _best_coding(subject: Subject, spec: Specification, start: Choices) -> Coding:
    layout = layout_of(subject, spec, start)
    for coding in spec.codecs:
        profile = coding.known
        if profile and codec_profile_of(profile, wanted_of(layout, spec, start)).fits:
            return coding
    return spec.codecs[0]


def wanted_of(layout: Layout, spec: Specification, choices: Choices) -> Wanted:
    """Return what a carrier has to carry."""
    return Wanted(layout.frame, choices.rate, spec.bit_depth, spec.chroma, choices.bit_rate)


def choices_from(
    data: Mapping[str, str], subject: Subject, spec: Specification, shots: tuple[Shot, ...] = ()
) -> Choices:
    """Return the choices in a form's fields, the first ones where a field is absent.

    Raises UsageError saying which field holds what it cannot. Fields that fit another
    specification only (a size, a codec that it does not take) fall back to the first choice.
    """
    start = first_choices(subject, spec)
    squeeze = data.get("squeeze", start.squeeze)
    packing = data.get("packing", start.packing)
    made = replace(
        start,
        squeeze=squeeze if squeeze in SQUEEZES else start.squeeze,
        mode=data["mode"] if data.get("mode") in MODES else start.mode,
        packing=packing if packing in (spec.packings or ("one eye",)) else start.packing,
        across=_share(data, "across", start.across),
        down=_share(data, "down", start.down),
        bit_rate=round(_number(data, "bit_rate", start.bit_rate / 1e6, 0.05, 20_000) * 1e6),
        sharpen=spec.softens and data.get("sharpen") == "yes",
        line_rate=_number(data, "line_rate", start.line_rate / 1e6, 0.05, 1e6) * 1e6,
        rate=_rate(data, start.rate),
        rate_way=data["rate_way"] if data.get("rate_way") in RATE_WAYS else start.rate_way,
        coding=next(
            (c for c in spec.codecs if _coding_word(c) == data.get("coding")), start.coding
        ),
        shots=_checked_shots(shots, subject),
    )
    made = _marked(made, data, subject)
    sizes = {size_word(size): size for size in sizes_of(subject, spec, made.squeeze, made.packing)}
    made = replace(made, size=sizes.get(data.get("size", "")) or _fallback(subject, spec, made))
    try:
        layout_of(subject, spec, made)
    except ImpossibleError as error:
        raise UsageError(str(error), code="bad-geometry", where="size") from error
    return made


def _fallback(subject: Subject, spec: Specification, made: Choices) -> Size:
    try:
        return _best_size(subject, spec, made)
    except ImpossibleError:
        return sizes_of(subject, spec, made.squeeze, made.packing)[0]


def size_word(size: Size) -> str:
    """Return a size as forms carry it."""
    return f"{size[0]}x{size[1]}"


def _coding_word(coding: Coding) -> str:
    return f"{coding.codec} {coding.profile}"


def _number(data: Mapping[str, str], name: str, start: float, least: float, most: float) -> float:
    text = data.get(name, "").strip().replace(",", ".")
    if not text:
        return start
    try:
        value = float(text)
    except ValueError:
        value = -1.0
    if not least <= value <= most:
        words = name.replace("_", " ")
        raise UsageError(
            f"The {words} must be a number from {least:g} to {most:g}; here stands {text!r}.",
            code="bad-choice",
            where=name,
        )
    return value


def _share(data: Mapping[str, str], name: str, start: float) -> float:
    return _number(data, name, start * 100, 0, 100) / 100


def _rate(data: Mapping[str, str], start: Fraction) -> Fraction:
    text = data.get("rate", "")
    if not text:
        return start
    # Written out: a fraction from a text with an exponent may be larger than memory.
    found = RATE.fullmatch(text)
    value = Fraction(int(found[1]), int(found[2] or 1)) if found else None
    if value is None or not 0 < value <= MOST_RATE:
        raise UsageError(f"{text[:20]!r} is no frame rate.", code="bad-choice", where="rate")
    return value


def _marked(made: Choices, data: Mapping[str, str], subject: Subject) -> Choices:
    """Return choices with the marks in and out, which the last frame is shown at."""
    first, last = (_mark(data, name, subject) for name in ("mark_in", "mark_out"))
    frames = subject.frames or MOST_FRAMES
    begin, end = first or 0, frames if last is None else last + 1
    if end > frames:
        text = f"The mark out lies behind the master's last frame, {frames - 1}."
        raise UsageError(text, code="bad-choice", where="mark_out")
    if begin >= end:
        text = "The mark out lies before the mark in: at least one frame remains."
        raise UsageError(text, code="bad-choice", where="mark_out")
    is_whole = begin == 0 and (last is None or end == subject.frames)
    if is_whole:
        return made
    return replace(made, first=begin, end=None if last is None else end)


def _mark(data: Mapping[str, str], name: str, subject: Subject) -> int | None:
    text = data.get(name, "").strip()
    if not text:
        return None
    try:
        return frame_of(text, subject.rate)
    except ValueError as error:
        words = name.replace("_", " ")
        raise UsageError(f"The {words}: {error}.", code="bad-choice", where=name) from error


def _checked_shots(shots: tuple[Shot, ...], subject: Subject) -> tuple[Shot, ...]:
    """Return the shots in order; raises UsageError where they overlap or lie outside."""

    def refuse(text: str) -> UsageError:
        return UsageError(text, code="bad-shots", where="shots")

    if len(shots) > MOST_SHOTS:
        raise refuse(f"At most {MOST_SHOTS} shots can have a place of their own.")
    ordered = tuple(sorted(shots, key=lambda shot: shot.first))
    for shot in ordered:
        if not (0 <= shot.across <= 1 and 0 <= shot.down <= 1):
            raise refuse(f"The cut of the shot from frame {shot.first} lies at 0 to 100 per cent.")
        if shot.first < 0 or shot.last < shot.first:
            raise refuse(f"A shot from frame {shot.first} to {shot.last} has no length.")
        if subject.frames and shot.last >= subject.frames:
            raise refuse(
                f"The shot from frame {shot.first} to {shot.last} ends after the master, whose "
                f"last frame is {subject.frames - 1}."
            )
    for shot, after in pairwise(ordered):
        if after.first <= shot.last:
            raise refuse(
                f"The shots from frame {shot.first} and from {after.first} overlap: end the first "
                f"at frame {after.first - 1}."
            )
    return ordered
