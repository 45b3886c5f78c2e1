"""What every screen shows at a moment in simulated time."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import sqrt
from typing import Any

from ...core.rehearsed.rehearsal import Arrival
from ...core.rehearsed.viewers import SCREENS, Fit, Layout, Screen, fit_on, rendition_for

TIMES = (("now", 0), ("after an hour", 3600), ("tomorrow", 24 * 3600))
WHEEL_STEPS, WHEEL_S = 240, 48 * 3600
PEAKS = (400, 600, 1000, 1500, 4000)
USUAL_PEAK = 1000
THUMB = (270, 168)


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """One screen. rendition: its place among the plans, None while nothing is there."""

    screen: Screen
    rendition: int | None
    name: str
    fit: Fit | None
    arrives_s: float

    @property
    def thumb(self) -> tuple[int, int]:
        """Return the size of its small picture on the page, in CSS pixels."""
        width, height = self.screen.raster
        scale = min(THUMB[0] / width, THUMB[1] / height)
        return round(width * scale), round(height * scale)

    @property
    def bars_text(self) -> str:
        """Return the bars that the screen adds, in its own samples."""
        bars = self.fit.bars if self.fit else {}
        if not bars:
            return "no bars"
        sides = [("top", "bottom"), ("left", "right")]
        one, other = sides[0] if "top" in bars or "bottom" in bars else sides[1]
        return f"bars {bars.get(one, 0)} {one}, {bars.get(other, 0)} {other}"


def at_of_wheel(place: int) -> int:
    """Return the simulated second at a place of the hand wheel: fine at first, days at its end."""
    share = min(max(place, 0), WHEEL_STEPS) / WHEEL_STEPS
    fourth: float = share * share * share * share
    return round(fourth * WHEEL_S)


def wheel_of(at_s: float) -> int:
    """Return the place of the hand wheel at a simulated second."""
    return round(sqrt(sqrt(min(max(at_s, 0), WHEEL_S) / WHEEL_S)) * WHEEL_STEPS)


def seen_at(arrival: Arrival, at_s: float, peak_nits: int) -> list[Seen]:
    """Return what each screen shows at a simulated second after the upload."""
    plans = arrival.plans
    first = min((plan.arrives_s for plan in plans), default=0.0)
    made = []
    wanted = arrival.stand_in.screens
    known = [one for one in SCREENS if one.key in wanted] or SCREENS
    for screen in known:
        chosen = screen.with_peak(peak_nits) if screen.key == "hdr" else screen
        place = rendition_for(chosen, plans, at_s)
        plan = plans[place] if place is not None else None
        made.append(
            Seen(
                screen=chosen,
                rendition=place,
                name=plan.name if plan else "",
                fit=fit_on(chosen, layout_of(arrival, place)) if place is not None else None,
                arrives_s=plan.arrives_s if plan else first,
            )
        )
    return made


def layout_of(arrival: Arrival, place: int) -> Layout:
    """Return a rendition's layout as its player takes it."""
    plan, taken = arrival.plans[place], arrival.recognition
    aspect = taken["pixel_aspect"]
    wide = (aspect if isinstance(aspect, tuple) else (1, 1)) if plan.is_sent else (1, 1)
    projection, stereo = taken["projection"], taken["stereo"]
    return Layout(
        raster=plan.raster,
        aspect=wide,
        projection=projection if isinstance(projection, str) else None,
        stereo=stereo if isinstance(stereo, str) else None,
    )


def time_words(seconds: float) -> str:
    """Return a time as people say it."""
    if seconds < 90:
        return f"{seconds:.0f} s"
    if seconds < 5400:
        return f"{seconds / 60:.0f} min"
    hours = round(seconds / 3600, 1)
    return f"{hours:g} h"


def stages_of(found: Mapping[str, Any]) -> Sequence[tuple[str, str]]:
    """Return when something new is there, and what: (time, names)."""
    made: dict[int, list[str]] = {}
    for one in found.get("renditions", []):
        made.setdefault(one["after_s"], []).append(one["name"])
    return [(time_words(at), ", ".join(names)) for at, names in sorted(made.items())]
