"""What a file's picture says by itself, with no master beside it: only what follows.

Methods: docs/checks.md 4. Transfer function, primaries and matrix cannot be told
from one picture, so they are not mentioned.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ..declared import Declaration
from ..measured import CodeUse, FileSurvey
from ..promised import stated_by
from . import tolerances
from .evidence import is_full_range
from .rules.carriage import damage_words

PAIRED = ({"left-right", "right-left"}, {"top-bottom", "bottom-top"})
FITS, CONTRADICTS, OPEN = "fits", "contradicts", "cannot tell"


@dataclass(frozen=True, slots=True)
class Statement:
    """One thing that the picture shows, and how that stands to what the file states."""

    title: str
    shows: str
    stands: str
    words: str


def tell_alone(whole: FileSurvey, declaration: Declaration) -> tuple[Statement, ...]:
    """Return what every frame of a file shows, held against its own declaration."""
    return tuple(_statements(whole, declaration))


def _statements(whole: FileSurvey, declaration: Declaration) -> Iterator[Statement]:
    yield _decoding(whole)
    yield _range(whole.codes, full=is_full_range(declaration))
    if whole.codes.depth > 8:
        yield _levels(whole)
    if whole.light is not None:
        yield _light(whole, declaration)
    if whole.gamut is not None:
        yield _gamut(whole)
    for trait, title, shown in (
        ("projection", "Sphere", whole.projection),
        ("stereo", "Eyes", whole.stereo),
    ):
        if shown is not None:
            yield _layout(trait, title, shown, declaration)


def _decoding(whole: FileSurvey) -> Statement:
    """Return whether every coded picture decodes."""
    count = whole.damage.count
    if not count:
        shows = f"{whole.frames + whole.skipped} pictures"
        return Statement("Decoding", shows, FITS, "Every coded picture decodes without an error.")
    shows = f"{count} broken picture{'' if count == 1 else 's'}"
    return Statement("Decoding", shows, CONTRADICTS, damage_words(whole.damage))


def _layout(trait: str, title: str, shown: str, declaration: Declaration) -> Statement:
    """Return what the picture is laid out as, against the flag; none means flat."""
    told = stated_by(declaration, trait)
    flag = told[1].value if told else ("rectilinear" if trait == "projection" else "mono")
    if flag == shown:
        return Statement(title, shown, FITS, "By its edges, its poles, or two views of one scene.")
    if told is None:
        return Statement(title, shown, CONTRADICTS, "No witness flags it: players show it flat.")
    same_eyes = trait == "stereo" and {flag, shown} in PAIRED
    if same_eyes:
        words = "Which eye is the left one, only a master's eyes can tell."
        return Statement(title, shown, OPEN, words)
    return Statement(title, shown, CONTRADICTS, f"The file says {flag}.")


def _range(codes: CodeUse, *, full: bool) -> Statement:
    outside = codes.below_black + codes.above_white
    shows = f"codes {codes.lowest} to {codes.highest} of {(1 << codes.depth) - 1}"
    if outside > tolerances.OUTSIDE_SHARE:
        words = f"{outside:.1%} of samples lie outside limited range: this is full range."
        return Statement("Range", shows, FITS if full else CONTRADICTS, words)
    words = "Nothing to speak of lies outside limited range."
    if full:
        return Statement(
            "Range", shows, OPEN, f"{words} The flag says full range: held or squeezed."
        )
    return Statement("Range", shows, FITS, words)


def _levels(whole: FileSurvey) -> Statement:
    codes, shows = whole.codes, f"{whole.codes.levels} codes in use"
    if codes.comb >= tolerances.COMB_REDUCED:
        words = "Nearly all codes share one remainder of 4: the levels of 8 bits."
        return Statement("Levels", shows, CONTRADICTS, words)
    if whole.banding is None:
        return Statement("Levels", shows, OPEN, "There are too few even gradients to tell.")
    steps = f"{whole.banding:.0%} of steps on even gradients are 3 codes of 1023 or more."
    if whole.banding > tolerances.BANDED_SHARE:
        words = f"{steps} It passed 8 bits, or is that way by design."
        return Statement("Levels", shows, OPEN, words)
    return Statement("Levels", shows, FITS, steps)


def _light(whole: FileSurvey, declaration: Declaration) -> Statement:
    light = whole.light
    assert light is not None  # noqa: S101  (asked before)
    shows = f"MaxCLL {light.max_cll:.0f}, MaxFALL {light.max_fall:.0f} cd/m²"
    stated = stated_by(declaration, "content_light")
    level = stated[1].value if stated else None
    ceiling = level.get("max_cll") if isinstance(level, Mapping) else None
    above = ""
    if light.above_peak:
        above = f" {light.above_peak:.2%} of samples exceed the stated mastering display."
    if not isinstance(ceiling, int | float) or not ceiling:
        return Statement("Light", shows, OPEN, f"The file states no light level.{above}")
    if light.p999 > ceiling * tolerances.LIGHT_LEVEL:
        words = (
            f"Stated {ceiling:.0f}; 99.9 % of the brightest frame reach {light.p999:.0f}.{above}"
        )
        return Statement("Light", shows, CONTRADICTS, words)
    return Statement("Light", shows, FITS, f"Stated: {ceiling:.0f} cd/m².{above}")


def _gamut(whole: FileSurvey) -> Statement:
    gamut = whole.gamut
    assert gamut is not None  # noqa: S101  (asked before)
    shows = f"{gamut.outside_p3:.2%} outside P3-D65, {gamut.outside_bt709:.2%} outside BT.709"
    if gamut.outside_bt709 == 0:
        words = "Every colour lies inside BT.709: no saturated ones, or they were cut or converted."
        return Statement("Gamut in use", shows, OPEN, words)
    return Statement(
        "Gamut in use", shows, FITS, "Colours need the wider primaries that are stated."
    )
