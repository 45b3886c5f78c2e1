"""What a silent master leaves open, and the likely answer: it is asked for once, never assumed."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..colour.codepoints import MATRICES, PRIMARIES, TRANSFERS
from ..declared import Declaration, TraitValue
from ..measured import FileSurvey
from ..promised import stated_by
from . import tolerances

ASKED = ("transfer", "primaries", "matrix", "range")
SD_LINES = {480: "525", 486: "525", 576: "625"}
"""Lines of standard definition, and its system (ITU-R BT.601-7)."""
BT_709, BT_601_625, BT_601_525 = (1, 1, 1), (6, 5, 5), (6, 6, 6)
PQ, HLG = (16, 9, 9), (18, 9, 9)
"""H.273 code points: transfer, primaries, matrix."""


@dataclass(frozen=True, slots=True)
class Question:
    """What a master does not say. likely: by trait; reason: what that is taken from."""

    traits: tuple[str, ...]
    likely: Mapping[str, TraitValue]
    reason: str


def question_of(master: Declaration, whole: FileSurvey | None) -> Question | None:
    """Return what is to be asked about a master; None where it says all.

    whole: what every frame of it shows, as far as that was measured.
    """
    silent = tuple(trait for trait in ASKED if stated_by(master, trait) is None)
    if not silent:
        return None
    codes, reason = _codes(master)
    words = "limited"
    if whole is not None:
        outside = whole.codes.below_black + whole.codes.above_white
        words = "full" if outside > tolerances.OUTSIDE_SHARE else "limited"
        share = f"{outside:.1%} of its samples lie outside limited range"
        reason = f"{reason}; {share}"
    likely: dict[str, TraitValue] = dict(zip(ASKED, (*codes, words), strict=True))
    said = {trait: found[1].value for trait in ASKED if (found := stated_by(master, trait))}
    return Question(silent, {**likely, **said}, reason)


def _codes(master: Declaration) -> tuple[tuple[int, int, int], str]:
    """Return the likely code points, and why."""
    raster, depth = stated_by(master, "raster"), stated_by(master, "bit_depth")
    lines = raster[1].value[1] if raster and isinstance(raster[1].value, tuple) else 1080
    for trait, name in (("mastering_display", "a mastering display"), ("content_light", "MaxCLL")):
        if stated_by(master, trait):
            return PQ, f"it states {name}, which belongs to PQ"
    stated = stated_by(master, "transfer")
    if stated is not None and stated[1].value in (PQ[0], HLG[0]):
        code = PQ if stated[1].value == PQ[0] else HLG
        return code, f"it states {TRANSFERS[code[0]]}"
    wide = stated_by(master, "primaries")
    if wide is not None and wide[1].value == PQ[1] and depth and depth[1].value != 8:
        return PQ, "it states BT.2020 primaries in more than 8 bits"
    if lines in SD_LINES:
        code = BT_601_525 if SD_LINES[int(lines)] == "525" else BT_601_625
        return code, f"it has {lines} lines, which is standard definition"
    bits = f" in {depth[1].value} bits" if depth else ""
    return BT_709, f"it has {lines} lines{bits} and no HDR metadata"


def choices_of(trait: str) -> dict[TraitValue, str]:
    """Return what can be answered about a trait: value → words."""
    if trait == "range":
        return {"limited": "limited", "full": "full"}
    names = {"transfer": TRANSFERS, "primaries": PRIMARIES, "matrix": MATRICES}[trait]
    return {code: name for code, name in names.items() if code not in (0, 2, 3)}
