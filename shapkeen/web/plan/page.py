"""What the Plan page shows, gathered from a plan; no computation of its own."""

from dataclasses import dataclass
from typing import Any

from django.urls import reverse

from ...core.geometry.codec_profiles import CODEC_NAMES
from ...core.geometry.timecode import timecode_of
from ...core.geometry.words import ratio_words, size_words
from ...core.promised.planning import Plan, Subject, sheet_of, sizes_of, warnings_of
from ...core.promised.planning.choices import MODES, RATE_WAYS, SQUEEZES
from ...core.promised.planning.choosing import size_word
from ...core.rehearsed import displays_for
from ...core.reported.figures.plan import plan_figure
from ..library.access import whole_number
from ..library.models import Title


@dataclass(frozen=True, slots=True)
class Option:
    """One entry of a list to choose from."""

    value: str
    words: str
    chosen: bool


@dataclass(frozen=True, slots=True)
class ShotRow:
    """One shot's place as the page's fields carry it; shown: whether the drawing shows it."""

    first: str
    last: str
    across: str
    down: str
    shown: bool


def _percent(share: float) -> str:
    return f"{share * 100:.2f}".rstrip("0").rstrip(".")


def choices_shown(plan: Plan) -> dict[str, Any]:
    """Return the form's lists and values."""
    spec, chosen, subject = plan.specification, plan.choices, plan.subject
    sizes = sizes_of(subject, spec, chosen.squeeze, chosen.packing)
    modes = [name for name in MODES if name != "own" or not spec.packings]
    rates = sorted({*spec.frame_rates, chosen.rate, subject.rate})
    return {
        "sizes": [
            Option(size_word(size), f"{size[0]} × {size[1]}", size == chosen.size) for size in sizes
        ],
        "modes": [Option(name, MODES[name], name == chosen.mode) for name in modes],
        "squeezes": [Option(n, words, n == chosen.squeeze) for n, words in SQUEEZES.items()]
        if subject.aspect != (1, 1)
        else [],
        "rates": [
            Option(f"{r.numerator}/{r.denominator}", ratio_words(r), r == chosen.rate)
            for r in rates
        ],
        "rate_ways": [Option(n, words, n == chosen.rate_way) for n, words in RATE_WAYS.items()]
        if plan.may_change_speed
        else [],
        "codings": [
            Option(
                f"{c.codec} {c.profile}",
                f"{CODEC_NAMES[c.codec]} {c.profile}",
                c == chosen.coding,
            )
            for c in spec.codecs
        ],
        "packings": [Option(n, n, n == chosen.packing) for n in spec.packings],
        "bit_rate": f"{chosen.bit_rate / 1e6:g}",
        "line_rate": f"{chosen.line_rate / 1e6:g}",
        "mark_in": _mark(plan, chosen.first),
        "mark_out": _mark(plan, chosen.end, -1),
        "across": _percent(chosen.across),
        "down": _percent(chosen.down),
    }


def _mark(plan: Plan, frame: int | None, more: int = 0) -> str:
    return "" if frame is None else timecode_of(frame + more, plan.subject.rate)


def _shot_rows(plan: Plan, frame: int) -> list[ShotRow]:
    rate = plan.subject.rate
    return [
        ShotRow(
            timecode_of(shot.first, rate),
            timecode_of(shot.last, rate),
            _percent(shot.across),
            _percent(shot.down),
            shot.holds(frame),
        )
        for shot in plan.choices.shots
    ]


def moment_of(subject: Subject, text: str) -> int:
    """Return the frame to draw by: as asked, else the middle one."""
    most = max((subject.frames or 1) - 1, 0)
    asked = whole_number(text)
    return most // 2 if asked is None else min(asked, most)


def shown_plan(title: Title, plan: Plan, frame: int) -> dict[str, Any]:
    """Return the context of the page's changing part."""
    layout = plan.layout
    rows = _shot_rows(plan, frame)
    index = next((i for i, row in enumerate(rows) if row.shown), None)
    inputs = ("across", "down") if index is None else (f"across-{index}", f"down-{index}")
    if index is not None:
        layout = plan.layout_of_shot(plan.choices.shots[index])
    still = reverse("plan:still", args=[title.pk, frame])
    before, after = warnings_of(plan)
    label = f"Plan: {size_words(layout.frame)} from {size_words(layout.source)}"
    return {
        "plan": plan,
        "layout": layout,
        "figure": plan_figure(layout, still=still, inputs=inputs, label=label),
        "before": before,
        "after": after,
        "sheet": sheet_of(plan),
        "shots": rows,
        "frame": frame,
        "moment": timecode_of(frame, plan.subject.rate),
        "last_frame": max((plan.subject.frames or 1) - 1, 0),
        "shown": choices_shown(plan),
    }


def display_of(subject: Subject) -> str:
    """Return the display that the master's still is simulated for."""
    return displays_for(subject.transfer)[0]
