"""Filters for showing values; no computation."""

import re
from collections.abc import Mapping
from datetime import UTC, datetime
from typing import Any

from django import template
from django.utils.safestring import SafeString, mark_safe

from ....core.declared import PICTURE_ENDINGS
from ....core.geometry.words import ratio_words
from ....core.promised import freeze, trait_by_name, value_stated
from ....core.remaining import clock_words
from ....core.reported.bench import title_of
from ....core.reported.declared import declaration_from_object
from ....core.reported.explained import explained
from ....core.reported.figures.glyph import verdict_glyph
from ..glossary import meaning_of
from ..undoing import HELD

register = template.Library()

DIGEST = re.compile(r"[0-9a-f]{64}")
MOST_TOLD = 160
"""Signs of one value of the history in a list; its page in JSON has all."""


@register.filter
def glyph(verdict: str) -> SafeString:
    """Return the verdict's glyph; its SVG is our own and escapes every value."""
    return mark_safe(verdict_glyph(verdict))  # noqa: S308  (see above)


@register.filter
def drawn(svg: str) -> SafeString:
    """Return a drawing of ours as it is; figures/svg.py escapes every value."""
    return mark_safe(svg)  # noqa: S308  (see above)


@register.simple_tag
def picture_endings() -> str:
    """Return what files that can be read are called, for scripts that choose among many."""
    return " ".join(sorted(PICTURE_ENDINGS))


@register.inclusion_tag("_how.html")
def how(drawing: str) -> dict[str, str]:
    """Show how a drawing is read, to be folded away; nothing where there is no drawing."""
    return {"text": explained(drawing) if drawing else ""}


@register.inclusion_tag("_word.html")
def word(name: str, said: str = "") -> dict[str, str]:
    """Show one of our words with its meaning. said: as it stands here, where that is otherwise."""
    return {"said": said or name, "meaning": meaning_of(name)}


@register.filter
def undo_key(message: Any) -> str:
    """Return what undoes the deed that a message tells of; empty where nothing does."""
    head, _, key = str(message.extra_tags or "").partition("-")
    return key if head == HELD else ""


@register.filter
def raster_of(declaration: dict[str, Any]) -> str:
    """Return a file's width and height in samples, for scripts; empty where nothing states it."""
    raster = value_stated(declaration_from_object(declaration), "raster")
    return f"{raster[0]} {raster[1]}" if isinstance(raster, tuple) else ""


@register.filter
def size(count: int) -> str:
    """Return bytes in decimal units, as disks are sold."""
    value = float(count)
    for unit in ("B", "kB", "MB", "GB"):
        if value < 1000:
            return f"{value:.0f} {unit}" if unit in ("B", "kB") else f"{value:.1f} {unit}"
        value /= 1000
    return f"{value:.1f} TB"


@register.filter
def at(mapping: Mapping[int, Any], key: int) -> Any:
    """Return a mapping's value, None where it has none."""
    return mapping.get(key) if mapping else None


@register.filter
def moment(nanoseconds: int) -> str:
    """Return a file's time of change, UTC, to the minute."""
    return datetime.fromtimestamp(nanoseconds / 1e9, tz=UTC).strftime("%-d %b %Y, %H:%M")


@register.filter
def ratio(value: float) -> str:
    """Return a ratio or rate with three decimals at most."""
    return ratio_words(value)


@register.filter
def cause_words(cause_id: str) -> str:
    """Return a cause's name as people say it."""
    return title_of(cause_id)


@register.filter
def percent(share: float) -> str:
    """Return a share of 1 in per cent."""
    return f"{share * 100:.0f} %"


@register.filter
def lower_first(text: str) -> str:
    """Return a sentence as the rest of another one."""
    return text[:1].lower() + text[1:]


@register.filter
def fine_percent(share: float) -> str:
    """Return a small share of 1 in per cent, two figures."""
    return f"{share * 100:.2g} %"


@register.filter
def megabits(bits: float | None) -> str:
    """Return bits a second in Mb/s, three figures."""
    return "–" if bits is None else f"{bits / 1e6:.3g} Mb/s"


@register.filter
def clock(seconds: float) -> str:
    """Return a length of time in the units that people say it in."""
    return clock_words(seconds)


@register.filter
def trait_title(name: str) -> str:
    """Return a trait's title."""
    trait = trait_by_name(name)
    return trait.title if trait else name


@register.filter
def trait_words(value: Any, name: str) -> str:
    """Return a trait's value as people write it; silence has a word of its own."""
    trait = trait_by_name(name)
    if value is None:
        return "silent"
    return trait.form.show(freeze(value)) if trait else str(value)


@register.filter
def moved_words(event: Any) -> str:
    """Return what an event changed, in one line: before → after, else what it was."""
    before, after = _flat(event.before), _flat(event.after)
    if before and after:
        return f"{before} → {after}"
    return after or before


def _flat(value: Any) -> str:
    """Return a value of the history in a line, long texts cut."""
    if isinstance(value, dict):
        told = "; ".join(f"{name.replace('_', ' ')} {_flat(one)}" for name, one in value.items())
    elif isinstance(value, list):
        told = ", ".join(_flat(one) for one in value) or "none"
    else:
        told = {None: "", True: "yes", False: "no"}.get(value, str(value))
        told = f"{told[:12]}…" if DIGEST.fullmatch(told) else told
    return told if len(told) <= MOST_TOLD else f"{told[:MOST_TOLD]}…"


@register.filter
def thousandth(share: float) -> str:
    """Return a share of 1 in thousandths, for a drawing that is 1000 wide."""
    return f"{share * 1000:.1f}"


@register.filter
def before_place(origin: str) -> str:
    """Return where a value comes from, without the exact place in the file."""
    return origin.partition(" (")[0]
