"""What viewers get where a service takes a trait for something else. Common practice, no source."""

from ...colour.codepoints import HDR_TRANSFERS
from ..stand_in.model import Value

EXCHANGED = {("left-right", "right-left"), ("top-bottom", "bottom-top")}


def consequence(trait: str, taken: Value, meant: Value) -> str:
    """Return in a sentence what viewers will see; both values are as recognition has them."""
    return _WORDS[trait](taken, meant)


def _transfer(taken: Value, meant: Value) -> str:
    if meant in HDR_TRANSFERS and taken not in HDR_TRANSFERS:
        return "Milky: codes of HDR are shown as SDR, grey, flat and pale."
    if taken in HDR_TRANSFERS and meant not in HDR_TRANSFERS:
        return "Harsh: codes of SDR are shown as HDR, far too bright or too dark."
    if taken in HDR_TRANSFERS:
        return "Wrongly lit: PQ is shown as HLG, or HLG as PQ."
    return "Middle tones come out too light or too dark."


def _primaries(taken: Value, meant: Value) -> str:
    if meant == 9:
        return "Pale: colours of BT.2020 are shown in a smaller gamut."
    if taken == 9:
        return "Garish: colours are shown in a wider gamut than they were made for."
    return "Hues come out slightly turned."


def _matrix(_taken: Value, _meant: Value) -> str:
    return "Greens and reds come out turned: another matrix decodes them."


def _range(taken: Value, _meant: Value) -> str:
    if taken == "full":
        return "Milky: black is shown as dark grey, white as light grey."
    return "Crushed: shadows run into black, highlights into white."


def _pixel_aspect(taken: Value, meant: Value) -> str:
    own = meant if isinstance(meant, tuple) else (1, 1)
    there = taken if isinstance(taken, tuple) else (1, 1)
    ratio = own[0] * there[1] / (own[1] * there[0])
    if ratio > 1:
        return f"Squeezed: circles are shown {ratio:.2f} times as high as wide."
    return f"Stretched: circles are shown {1 / ratio:.2f} times as wide as high."


def _rotation(taken: Value, meant: Value) -> str:
    there, own = (value if isinstance(value, int) else 0 for value in (taken, meant))
    turn = (there - own) % 360
    if turn == 180:
        return "Upside down."
    return f"Lying on its side: turned by {turn}° clockwise."


def _projection(taken: Value, meant: Value) -> str:
    if taken is None:
        return "The sphere is shown flat: a stretched picture, nobody can look around."
    if meant is None:
        return "A flat picture is bent around the viewer."
    return "The sphere is bent the wrong way: half of it, or twice as much."


def _stereo(taken: Value, meant: Value) -> str:
    if taken in (None, "mono"):
        return "Both eyes' pictures are shown in one frame, without depth."
    if meant in (None, "mono"):
        return "One picture is cut in two, a half for each eye."
    if (taken, meant) in EXCHANGED or (meant, taken) in EXCHANGED:
        return "The eyes are exchanged: near is far, and it hurts to look."
    return "The eyes are cut out of the wrong halves."


_WORDS = {
    "transfer": _transfer,
    "primaries": _primaries,
    "matrix": _matrix,
    "range": _range,
    "pixel_aspect": _pixel_aspect,
    "rotation": _rotation,
    "projection": _projection,
    "stereo": _stereo,
}
