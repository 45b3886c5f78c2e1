"""The forms that trait values take: how each is checked when it comes in, and shown.

Forms are those of docs/contract.md's table. A checker returns the value with lists made tuples,
or raises ValueError with words that complete "… must be".
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import inf

from ..colour.codepoints import CHROMA_LOCATIONS, MATRICES, PRIMARIES, TRANSFERS
from ..declared import TraitValue
from ..geometry.words import ratio_words


@dataclass(frozen=True, slots=True)
class Form:
    """One form: how a value from JSON is checked, and how a value is shown in a few signs."""

    check: Callable[[object], TraitValue]
    show: Callable[[TraitValue], str]


def _whole(value: object, low: int, high: int, what: str) -> int:
    if isinstance(value, bool) or not isinstance(value, int) or not low <= value <= high:
        raise ValueError(what)
    return value


def _pair(value: object, what: str) -> tuple[int, int]:
    if not isinstance(value, list | tuple) or len(value) != 2:
        raise ValueError(what)
    first, second = (_whole(item, 1, 2**31, what) for item in value)
    return first, second


def _mapping(value: object, keys: tuple[str, ...], what: str) -> dict[str, TraitValue]:
    if not isinstance(value, Mapping) or not set(keys) <= set(value):
        raise ValueError(what)
    return {str(key): freeze(item) for key, item in value.items()}


def freeze(value: object) -> TraitValue:
    """Return a JSON value with lists made tuples; raises ValueError for null."""
    if isinstance(value, list | tuple):
        return tuple(freeze(item) for item in value)  # type: ignore[return-value]  # as JSON has it
    if isinstance(value, Mapping):
        return {str(key): freeze(item) for key, item in value.items()}
    if isinstance(value, int | float | str | bool):
        return value
    raise ValueError("a number, a word, true or false, a list or an object")


def code_point(names: Mapping[int, str]) -> Form:
    """Return the form of an H.273 code point with these names."""
    return Form(
        check=lambda value: _whole(value, 0, 255, "an H.273 code point, 0 to 255"),
        show=lambda value: (
            names.get(value, f"code {value}") if isinstance(value, int) else str(value)
        ),
    )


def one_of(*words: TraitValue) -> Form:
    """Return the form of a choice among words or numbers."""
    listed = ", ".join(str(word) for word in words)

    def check(value: object) -> TraitValue:
        for word in words:
            if value == word and type(value) is type(word):
                return word
        raise ValueError(f"one of {listed}")

    return Form(check=check, show=show_plain)


def show_plain(value: TraitValue) -> str:
    """Return a word or number as people write it."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.4g}"
    return str(value)


def _show_rate(value: TraitValue) -> str:
    if not isinstance(value, tuple):
        return str(value)
    n, d = value
    return ratio_words(n / d)


def _joined(sign: str) -> Callable[[TraitValue], str]:
    return lambda value: (
        sign.join(str(item) for item in value) if isinstance(value, tuple) else str(value)
    )


def _show_display(value: TraitValue) -> str:
    if not isinstance(value, Mapping):
        return str(value)
    names = {(0.68, 0.32): "P3", (0.708, 0.292): "BT.2020", (0.64, 0.33): "BT.709"}
    red = value.get("red")
    near = [
        name
        for xy, name in names.items()
        if isinstance(red, tuple) and max(abs(red[0] - xy[0]), abs(red[1] - xy[1])) < 0.002
    ]
    peak = value.get("max")
    return f"{near[0] if near else 'own'} {peak:g}" if isinstance(peak, int | float) else "own"


def _show_light(value: TraitValue) -> str:
    if not isinstance(value, Mapping):
        return str(value)
    return f"{_figure(value.get('max_cll'))} / {_figure(value.get('max_fall'))}"


def _figure(value: object) -> str:
    return f"{value:.0f}" if isinstance(value, int | float) else "–"


CROP = '"whole", or {"crop": [x, y, width, height]} with whole numbers, sides above 0'
SHOT = "a framing whose shots have a first and a last frame, in order, and a crop"
OVERLAY = "a framing whose overlays have x, y, width and height in delivered samples"
SIDES = frozenset({"top", "bottom", "left", "right"})


def _framing(value: object) -> TraitValue:
    """Check a framing: a crop in master samples, bars in delivered ones, cuts of single shots.

    And areas of delivered samples that something is meant to lie over: timecode, a mark.
    """
    if value == "whole":
        return "whole"
    made = _mapping(value, ("crop",), CROP)
    _crop(made["crop"])
    bars = made.get("bars", {})
    if not isinstance(bars, Mapping) or not set(bars) <= SIDES:
        raise ValueError("a framing whose bars are an object of top, bottom, left and right")
    for count in bars.values():
        _whole(count, 0, 2**16, "a framing whose bars are whole samples, 0 or more")
    covers = made.get("overlays", ())
    for cover in covers if isinstance(covers, tuple) else (covers,):
        _overlay(cover)
    shots = made.get("shots", ())
    for shot in shots if isinstance(shots, tuple) else (shots,):
        one = _mapping(shot, ("first", "last", "crop"), SHOT)
        first = _whole(one["first"], 0, 2**31, SHOT)
        _whole(one["last"], first, 2**31, SHOT)
        _crop(one["crop"])
    return made


def _overlay(value: object) -> None:
    box = _mapping(value, ("x", "y", "width", "height"), OVERLAY)
    for key in ("x", "y", "width", "height"):
        _whole(box[key], 0 if key in "xy" else 1, 2**16, OVERLAY)


def _crop(value: TraitValue) -> None:
    if not isinstance(value, tuple) or len(value) != 4:
        raise ValueError(CROP)
    for index, item in enumerate(value):
        _whole(item, 0 if index < 2 else 1, 2**16, CROP)


def _show_crop(value: TraitValue) -> str:
    crop = value.get("crop") if isinstance(value, Mapping) else None
    if isinstance(crop, tuple):
        x, y, width, height = crop
        bars = value.get("bars") if isinstance(value, Mapping) else None
        if bars:
            return "whole, with bars"
        shots = " and by shot" if isinstance(value, Mapping) and value.get("shots") else ""
        return f"{width}×{height} at {x},{y}{shots}"
    return "whole" if value == "whole" else "changed"


def _show_fields(value: TraitValue) -> str:
    if not isinstance(value, Mapping):
        return show_plain(value)
    return " ".join(f"{key} {_show_item(item)}" for key, item in value.items())


def _show_item(value: TraitValue) -> str:
    if isinstance(value, tuple) and len(value) == 2 and value[1]:
        return f"{value[0] / value[1]:g}"
    return show_plain(value)


AS_MASTERED = "as mastered"
"""Promised of what only the picture shows."""
MOST_SHIFT_PERCENT = 10.0


def _convergence(value: object) -> TraitValue:
    """Check a convergence: as mastered, or the right eye's shift against it in % of the width."""
    if value == AS_MASTERED:
        return AS_MASTERED
    shift = value.get("shift") if isinstance(value, Mapping) else None
    number = float(shift) if isinstance(shift, int | float) and shift is not True else inf
    if not -MOST_SHIFT_PERCENT <= number <= MOST_SHIFT_PERCENT:
        raise ValueError(CONVERGING)
    return {"shift": number}


CONVERGING = (
    f'"{AS_MASTERED}", or {{"shift": right eye\'s shift in % of its width, '
    f"-{MOST_SHIFT_PERCENT:g} to {MOST_SHIFT_PERCENT:g}}}"
)


def _show_convergence(value: TraitValue) -> str:
    shift = value.get("shift") if isinstance(value, Mapping) else None
    return f"{shift:+.2f} %" if isinstance(shift, int | float) else show_plain(value)


MARKS = f'"{AS_MASTERED}", or {{"in": first frame, "out": the one after the last}} of the master'


def _marks(value: object) -> TraitValue:
    """Check which frames of the master are promised: all of them, or those between two marks."""
    if value == AS_MASTERED:
        return AS_MASTERED
    made = _mapping(value, ("in", "out"), MARKS)
    first = _whole(made["in"], 0, 2**31, MARKS)
    _whole(made["out"], first + 1, 2**31, MARKS)
    return made


def _show_marks(value: TraitValue) -> str:
    if not isinstance(value, Mapping) or "in" not in value:
        return show_plain(value)
    return f"{value['in']} to {value['out']}"


THROUGH_TABLE = f'"{AS_MASTERED}", or {{"table": name, "values": a packed look-up table}}'


def _tone(value: object) -> TraitValue:
    """Check tones: as mastered, or as a look-up table makes them of the master's."""
    if value == AS_MASTERED:
        return AS_MASTERED
    from ..colour.packed_table import unpacked

    made = _mapping(value, ("table", "values"), THROUGH_TABLE)
    try:
        unpacked(str(made["values"]))
    except ValueError as error:
        raise ValueError(THROUGH_TABLE) from error
    return made


def _show_tone(value: TraitValue) -> str:
    return f"by {value['table']}" if isinstance(value, Mapping) else show_plain(value)


MOST_CHANNELS = 64
SOFTEST = -70.0


def _channels(value: object) -> TraitValue:
    """Check channels of sound: as mastered, or how many."""
    what = f'"{AS_MASTERED}", or how many channels, 1 to {MOST_CHANNELS}'
    return AS_MASTERED if value == AS_MASTERED else _whole(value, 1, MOST_CHANNELS, what)


def _level(value: object) -> TraitValue:
    """Check a level of sound: as mastered, or a number of its unit."""
    if value == AS_MASTERED:
        return AS_MASTERED
    number = float(value) if isinstance(value, int | float) and value is not True else inf
    if not SOFTEST <= number <= -SOFTEST:
        raise ValueError(f'"{AS_MASTERED}", or a number from {SOFTEST:g} to {-SOFTEST:g}')
    return number


SHARPENED = "sharpened"
"""Promised of `detail` where sharpening on purpose is part of the delivery."""

PRIMARIES_CODE = code_point(PRIMARIES)
TRANSFER_CODE = code_point(TRANSFERS)
MATRIX_CODE = code_point(MATRICES)
CHROMA_LOCATION = Form(
    check=lambda value: _whole(value, 0, 5, "0 to 5"),
    show=lambda value: (
        CHROMA_LOCATIONS.get(value, str(value)) if isinstance(value, int) else str(value)
    ),
)
RASTER = Form(check=lambda v: _pair(v, "[width, height] in samples"), show=_joined("×"))
RATIO = Form(check=lambda v: _pair(v, "[h, v], whole and above 0"), show=_joined(":"))
RATE = Form(check=lambda v: _pair(v, "[n, d] frames a second"), show=_show_rate)
DISPLAY = Form(
    check=lambda v: _mapping(
        v, ("red", "green", "blue", "white", "max", "min"), "a mastering display object"
    ),
    show=_show_display,
)
LIGHT = Form(
    check=lambda v: _mapping(v, ("max_cll", "max_fall"), '{"max_cll": …, "max_fall": …}'),
    show=_show_light,
)
FRAMING = Form(check=_framing, show=_show_crop)
APERTURE = Form(
    check=lambda v: (
        v
        if v == "whole"
        else _mapping(v, ("width", "height", "h_offset", "v_offset"), "a clean aperture object")
    ),
    show=_show_fields,
)
FIELDS = Form(check=lambda v: _mapping(v, (), "an object"), show=_show_fields)
LISTED = Form(check=freeze, show=_joined(", "))
FRAMES = Form(check=_marks, show=_show_marks)
CONVERGENCE = Form(check=_convergence, show=_show_convergence)
TONE = Form(check=_tone, show=_show_tone)
CHANNELS = Form(check=_channels, show=show_plain)
LEVEL = Form(check=_level, show=show_plain)
PLAIN = Form(check=freeze, show=show_plain)
NUMBER = Form(check=freeze, show=show_plain)
