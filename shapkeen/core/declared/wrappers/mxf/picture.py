"""What a picture descriptor says. Source: SMPTE ST 377-1 annex F (generic, CDCI and RGBA)."""

from collections.abc import Iterator, Mapping
from fractions import Fraction

from ...model import TraitValue
from . import labels

Stated = Iterator[tuple[str, TraitValue]]
Values = Mapping[str, tuple[int, ...] | bytes]
FULL_FRAME, SEPARATE_FIELDS, ONE_FIELD, MIXED_FIELDS, SEGMENTED_FRAME = range(5)
SECOND_FIELD_FIRST = 2
SUBSAMPLINGS = {(1, 1): "4:4:4", (2, 1): "4:2:2", (2, 2): "4:2:0"}
PLAIN_ASPECTS = (
    Fraction(1),
    Fraction(4, 3),
    Fraction(2),
    Fraction(12, 11),
    Fraction(10, 11),
    Fraction(16, 11),
    Fraction(40, 33),
    Fraction(8, 9),
    Fraction(32, 27),
    Fraction(16, 15),
    Fraction(64, 45),
)
SHALLOWEST, DEEPEST = 8, 16
NEAR = Fraction(1, 200)
"""Writers round the picture's shape (43/18 for 2.39): a sample this near a plain one is meant."""
LEVEL_PAIRS = (("BlackRefLevel", "WhiteRefLevel"), ("ComponentMinRef", "ComponentMaxRef"))
DISPLAY_UNIT, LIGHT_UNIT = 2e-5, 1e-4


def number(values: Values, name: str) -> int | None:
    """Return a whole number, None where the property is absent."""
    found = values.get(name)
    return found[0] if isinstance(found, tuple) and found else None


def ratio(values: Values, name: str) -> Fraction | None:
    """Return a positive ratio, None where it is absent or has a zero."""
    found = values.get(name)
    if isinstance(found, tuple) and len(found) == 2 and all(found):
        return Fraction(found[0], found[1])
    return None


def state_picture(values: Values) -> Stated:
    """State every trait that the descriptor's properties give."""
    yield from _shape(values)
    yield from _scan(values)
    rate = ratio(values, "SampleRate")
    if rate:
        yield "frame_rate", (rate.numerator, rate.denominator)
    yield from _sampling(values)
    for trait, name, table in (
        ("primaries", "ColorPrimaries", labels.PRIMARIES),
        ("transfer", "TransferCharacteristic", labels.TRANSFERS),
        ("matrix", "CodingEquations", labels.MATRICES),
    ):
        label = values.get(name)
        code = labels.code_of(label, table) if isinstance(label, bytes) else None
        if code is not None:
            yield trait, code
    yield from _mastering(values)


def _rectangle(values: Values, kind: str) -> tuple[int, int] | None:
    """Return a rectangle's size in samples of the frame: fields stored apart count twice."""
    width, height = number(values, f"{kind}Width"), number(values, f"{kind}Height")
    if not width or not height:
        return None
    apart = number(values, "FrameLayout") in (SEPARATE_FIELDS, ONE_FIELD)
    return width, height * 2 if apart else height


def _shape(values: Values) -> Stated:
    """State raster (what was sampled, else stored), display size, and pixel aspect."""
    stored = _rectangle(values, "Stored")
    raster = _rectangle(values, "Sampled") or stored
    shown = _rectangle(values, "Display") or raster
    if raster is None or shown is None:
        return
    yield "raster", raster
    if shown != raster:
        yield "display_size", shown
    aspect = ratio(values, "AspectRatio")
    if aspect:
        sample = aspect * Fraction(shown[1], shown[0])
        plain = next((p for p in PLAIN_ASPECTS if abs(sample / p - 1) < NEAR), sample)
        yield "pixel_aspect", (plain.numerator, plain.denominator)


def _scan(values: Values) -> Stated:
    layout = number(values, "FrameLayout")
    if layout in (FULL_FRAME, SEGMENTED_FRAME):
        yield "scan", "progressive"
    elif layout in (SEPARATE_FIELDS, MIXED_FIELDS):
        lines = values.get("VideoLineMap")
        if not isinstance(lines, tuple) or len(lines) < 2:
            yield "scan", "interlaced"
            return
        # The fields' first lines: an odd sum has the first field on top (as the FFmpeg libraries
        # read it; ST 377-1 F.4.1 gives 21 and 584 for 1080 lines with the first field on top).
        top = bool((lines[0] + lines[1]) % 2)
        if number(values, "FieldDominance") == SECOND_FIELD_FIRST:
            top = not top
        yield "scan", "top-first" if top else "bottom-first"
    elif layout == ONE_FIELD:
        yield "scan", "interlaced"


def _sampling(values: Values) -> Stated:
    depth = number(values, "ComponentDepth") or 0
    if 0 < depth <= DEEPEST:
        yield "bit_depth", depth
    pair = (number(values, "HorizontalSubsampling"), number(values, "VerticalSubsampling") or 1)
    if pair[0] and pair in SUBSAMPLINGS:
        yield "chroma", SUBSAMPLINGS[pair[0], pair[1]]
    for black, white in LEVEL_PAIRS:
        levels = number(values, black), number(values, white)
        bits = depth or (levels[1] or 0).bit_length()
        if not SHALLOWEST <= bits <= DEEPEST:  # a shift by a hostile depth would fill the memory
            continue
        if levels == (16 << (bits - 8), 235 << (bits - 8)):
            yield "range", "limited"
        elif levels == (0, (1 << bits) - 1):
            yield "range", "full"


def _mastering(values: Values) -> Stated:
    colours, white = (values.get(f"MasteringDisplay{part}") for part in ("Primaries", "WhitePoint"))
    light = {
        name: number(values, f"MasteringDisplay{word}Luminance")
        for name, word in (("max", "Maximum"), ("min", "Minimum"))
    }
    if not isinstance(colours, tuple) or not isinstance(white, tuple):
        return
    if len(colours) < 6 or len(white) < 2 or None in light.values():
        return
    xy = [round(value * DISPLAY_UNIT, 6) for value in (*colours[:6], *white[:2])]
    display: dict[str, TraitValue] = {
        name: (xy[2 * i], xy[2 * i + 1]) for i, name in enumerate(("red", "green", "blue", "white"))
    }
    for name, value in light.items():
        display[name] = round((value or 0) * LIGHT_UNIT, 4)
    yield "mastering_display", display
