"""What a file is suspected of, with no master beside it: by its headers and by its picture alone.

A suspicion is no verdict: what a picture was meant to be, only its master or its maker knows. Each
says why, and how often it was right where that was measured (docs/diagnosis.md, An export alone).
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from types import MappingProxyType

from ..colour.codepoints import HDR_TRANSFERS, PQ, UNSPECIFIED
from ..colour.quantisation import luma_offset_span
from ..declared import Declaration
from ..geometry.packing import MONO, SIDE_BY_SIDE, TOP_BOTTOM, way_of
from ..measured import AloneFindings, FileSurvey
from ..promised import stated_by
from . import tolerances
from .evidence import is_full_range, specified
from .reliability import share_right

SDR_AS_PQ_MIDDLE, SDR_AS_PQ_HIGH = 0.62, 0.93
"""PQ signal of the middle sample, and of the brightest thousandth: 330 and 5300 cd/m². Graded HDR
lies below in all but white rooms; SDR read as PQ above, in all but night scenes."""
PQ_AS_SDR_HIGH, PQ_AS_SDR_COLOUR = 0.8, 0.1
"""SDR signal that a PQ picture of 1000 cd/m² hardly passes, and how pale it is then."""
OUTSIDE_SHARE = 0.004
"""Of samples beyond limited range: overshoots of coding and scaling are fewer."""
SQUEEZED_ENDS = 0.007
"""Of limited range's span: black and white under a full-range flag lie so near to its ends."""
WOVEN_SHARE = 0.05
REPEATED = 0.55
STEPS_TOLD, LEAST_HELD = 5, 1
"""Steps of a moving picture that were looked at, and how many must stand out."""
SEAM_OPEN = 4.0
EYES = {SIDE_BY_SIDE: "side by side", TOP_BOTTOM: "one over the other"}


@dataclass(frozen=True, slots=True)
class Suspicion:
    """One thing that may have happened. cause: a cause of the contract; why: in words.

    is_fact: headers say so themselves. sure: share of such suspicions that were right where it was
    measured; None where too few tell.
    """

    cause: str
    why: str
    is_fact: bool = False
    sure: float | None = None


MEASURED: Mapping[str, tuple[int, int]] = MappingProxyType(
    {
        "depth-reduced": (6, 6),
        "frames-dropped": (6, 6),
        "frames-repeated": (9, 9),
        "interlaced": (9, 9),
        "letterboxed": (13, 12),
        "pillarboxed": (15, 12),
        "range-expanded": (17, 16),
        "seam-broken": (2, 2),
        "sphere-unflagged": (4, 4),
        "tag-wrong": (15, 15),
        "upscale-nearest": (9, 9),
        "windowboxed": (8, 8),
    }
)
"""Cause → (raised, of these rightly), counted by `make suspicions SIDE=aside` on 2026-11-29."""


def suspicions(
    found: AloneFindings | None, whole: FileSurvey | None, declaration: Declaration
) -> tuple[Suspicion, ...]:
    """Return what a file is suspected of, what its headers show first.

    found: of some of its frames; whole: of all of them; None where not measured.
    """
    raised = [*_of_headers(declaration)]
    facts = {cause for cause, _ in raised}
    if found is not None:
        for look in LOOKS:
            raised += look(found, declaration)
    if whole is not None:
        raised += _of_every_frame(whole, declaration)
    by_cause = {one[0]: one for one in reversed(raised)}
    ordered = dict.fromkeys(cause for cause, _ in raised)
    return tuple(
        Suspicion(c, by_cause[c][1], c in facts, share_right(MEASURED, c)) for c in ordered
    )


Raised = Iterator[tuple[str, str]]


def _of_headers(declaration: Declaration) -> Raised:
    """Yield what headers alone show."""
    if declaration.file.index_first is False:
        yield (
            "index-last",
            "The index lies behind the pictures: playing begins late over a network.",
        )
    colour = ("primaries", "transfer", "matrix")
    missing = [name for name in colour if stated_by(declaration, name) is None]
    if missing:
        yield "tag-missing", f"Nothing states {', '.join(missing)}: players guess."
    apart = [name for name in (*colour, "range") if _in_conflict(declaration, name)]
    if apart:
        yield "tag-conflict", f"Wrapper and stream differ on {', '.join(apart)}."
    if _transfer(declaration) == PQ and stated_by(declaration, "content_light") is None:
        yield "light-level-missing", "A PQ picture that states no light level."


def _in_conflict(declaration: Declaration, trait: str) -> bool:
    wrapper = specified(declaration.wrapper, trait, declaration.stream)
    stream = specified(declaration.stream, trait, declaration.wrapper)
    return wrapper is not None and stream is not None and wrapper != stream


def _transfer(declaration: Declaration) -> object:
    said = stated_by(declaration, "transfer")
    return said[1].value if said else UNSPECIFIED


def _range(found: AloneFindings, declaration: Declaration) -> Raised:
    codes, full = found.codes, is_full_range(declaration)
    outside = codes.below_black + codes.above_white
    black, span = luma_offset_span(depth=codes.depth, full_range=False)
    if not full and outside > OUTSIDE_SHARE:
        yield "range-expanded", f"{outside:.1%} of samples lie outside the limited range stated."
    ends = abs(codes.p001 - black), abs(codes.p999 - black - span)
    if full and max(ends) < SQUEEZED_ENDS * span:
        yield "range-compressed", "Stated as full range, black and white end at limited range's."


def _transfer_function(found: AloneFindings, declaration: Declaration) -> Raised:
    transfer = _transfer(declaration)
    if transfer == PQ and (found.middle > SDR_AS_PQ_MIDDLE or found.high > SDR_AS_PQ_HIGH):
        yield "tag-wrong", "Stated as PQ, it would be brighter than HDR is ever graded: SDR codes."
    if transfer in HDR_TRANSFERS:
        return
    pale = found.high < PQ_AS_SDR_HIGH and found.colour < PQ_AS_SDR_COLOUR
    if pale and found.codes.depth > 8:
        yield "tag-wrong", "Ten bits, stated as SDR, pale and never bright: codes as PQ's or HLG's."


def _shape(found: AloneFindings, _: Declaration) -> Raised:
    bars = found.bars
    if bars is None or bars.is_empty:
        return
    across, down = bars.left + bars.right, bars.top + bars.bottom
    name = "windowboxed" if across and down else "pillarboxed" if across else "letterboxed"
    told = (
        f"{bars.top}, {bars.bottom} lines above and below, {bars.left}, {bars.right} at the sides"
    )
    yield name, f"Even bars lie in the raster: {told}."


def _fields(found: AloneFindings, declaration: Declaration) -> Raised:
    said = stated_by(declaration, "scan")
    told = said[1].value if said else "progressive"
    if found.woven > WOVEN_SHARE and told == "progressive":
        yield (
            "interlaced",
            f"{found.woven:.0%} of the picture is woven of two moments, flagged whole.",
        )


def _detail(found: AloneFindings, _: Declaration) -> Raised:
    if found.repeated > REPEATED:
        yield "upscale-nearest", f"Samples repeat in groups of {found.ratio}: edges are stairs."


def _layout(found: AloneFindings, declaration: Declaration) -> Raised:
    said = [stated_by(declaration, name) for name in ("projection", "stereo")]
    kind, stereo = (str(told[1].value) if told else None for told in said)
    if found.projection is not None and kind is None:
        yield "sphere-unflagged", "Edges meet and poles are drawn out: a sphere without a flag."
    elif found.projection is not None and kind != found.projection:
        yield "sphere-misflagged", f"It looks {found.projection}, and is flagged {kind}."
    if found.seam is not None and kind == "equirectangular" and found.seam > SEAM_OPEN:
        yield "seam-broken", f"Its edges meet {found.seam:.1f} times as roughly as other columns."
    if found.eyes not in EYES:
        return
    told = way_of(stereo)
    if told is None or told[0] == MONO:
        yield "stereo-unflagged", f"Two views of one scene lie {EYES[found.eyes]}, without a flag."
    elif told[0] != found.eyes:
        yield "stereo-misflagged", f"Its eyes lie {EYES[found.eyes]}, and are flagged {stereo}."


def _depth(found: AloneFindings, _: Declaration) -> Raised:
    codes = found.codes
    if codes.depth > 8 and codes.comb >= tolerances.COMB_REDUCED:
        yield "depth-reduced", f"Its codes are those of {codes.bits or 8} bits in {codes.depth}."


def _time(found: AloneFindings, _: Declaration) -> Raised:
    steps = found.steps
    if steps.steps < STEPS_TOLD:
        return
    if steps.held >= LEAST_HELD:
        yield "frames-repeated", f"The picture stands still {steps.held} times while it moves."
    if steps.leaps >= LEAST_HELD:
        yield "frames-dropped", f"The picture leaps {steps.leaps} times while it moves evenly."


LOOKS: tuple[Callable[[AloneFindings, Declaration], Raised], ...] = (
    _range,
    _transfer_function,
    _shape,
    _fields,
    _detail,
    _layout,
    _depth,
    _time,
)


def _of_every_frame(whole: FileSurvey, declaration: Declaration) -> Raised:
    said = stated_by(declaration, "content_light")
    level = said[1].value if said else None
    ceiling = level.get("max_cll") if isinstance(level, Mapping) else None
    light = whole.light
    stated = float(ceiling) if isinstance(ceiling, int | float) and ceiling else None
    if light and stated and light.p999 > stated * tolerances.LIGHT_LEVEL:
        told = f"{light.p999:.0f} cd/m² at its brightest, {stated:.0f} are stated."
        yield "light-level-wrong", told
    if whole.damage.count:
        yield "stream-damaged", f"{whole.damage.count} pictures do not decode whole."
