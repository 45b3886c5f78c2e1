"""A rehearsal on a screen: single pictures, and both sides in step; a child makes them."""

import base64
import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from pathlib import Path
from typing import IO, Any

from ...core.rehearsed.ladder.excerpts import numbers_of
from ...core.rehearsed.rehearsal import Arrival
from ...core.rehearsed.viewers import SCREENS
from ..bench.services import drawn_comparison_of
from ..work.boundary import run_child
from ..work.errors import FaultError
from ..work.made import is_kept, keep_made, kept, made, only_one
from . import works
from .asked import request_of
from .models import Rehearsal, Trial
from .seen import USUAL_PEAK, seen_at

STILL_TIME_S, PAIR_TIME_S = 120, 600
EVERY = tuple(screen.key for screen in SCREENS)
MOST_FRAMES = 360
"""Of a piece that plays: a dozen seconds, made in one go."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """What is looked at. rendition: its place among the plans. yaw, pitch: in degrees."""

    rendition: int
    screen: str
    peak: int
    yaw: float = 0.0
    pitch: float = 0.0


def shown_frames(rehearsal: Rehearsal, step: int) -> list[int]:
    """Return the film's frames that renditions show, one after the other."""
    return numbers_of(rehearsal.excerpts, step)


def still(
    rehearsal: Rehearsal, side: str, frame: int, look: Look, step: int, *, every: bool = False
) -> IO[bytes]:
    """Return one side's frame on a screen, opened, made if need be; raises CoreError.

    side: master, sent or rendition. step: of the rendition's frames. every: draws it for every
    screen at once; else for both sides that are looked at.
    """
    key = _key("received", rehearsal, side, frame, look)
    found = kept(key)
    if found is None:
        sides = (side,) if every else tuple(dict.fromkeys((side, "rendition")))
        draw(rehearsal, sides, frame, look, step, screens=EVERY if every else (look.screen,))
        found = kept(key)
    if found is None:
        raise FaultError("What was drawn could not be kept: is the disk full?", code="not-kept")
    return found


def draw(
    rehearsal: Rehearsal,
    sides: Sequence[str],
    frame: int,
    look: Look,
    step: int,
    *,
    screens: Sequence[str],
) -> None:
    """Draw a frame of these sides on these screens, as far as it is not kept; raises CoreError."""
    # One child for all that is asked for at once: whoever waits finds most of it drawn.
    alike = replace(look, screen="" if len(screens) > 1 else look.screen)
    name = f"received {rehearsal.pk} {frame} {alike}"
    with only_one(name):
        keys = {
            (side, screen): _key("received", rehearsal, side, frame, replace(look, screen=screen))
            for side in sides
            for screen in screens
        }
        lacking = [place for place, key in keys.items() if not is_kept(key)]
        if not lacking:
            return
        wanted = list(dict.fromkeys(side for side, _ in lacking))

        def make(_folder: Path) -> Mapping[str, bytes]:
            asked = _asked(rehearsal, look) | {"screens": list(screens), "sides": wanted}
            found = run_child(
                works.stills,
                frame=frame,
                shown=shown_frames(rehearsal, step),
                pairs=_pairs(rehearsal, [frame]) if "master" in wanted else {},
                time_s=STILL_TIME_S,
                **asked,
            )
            return {
                keys[side, screen]: base64.b64decode(png)
                for side, by in found["pngs"].items()
                for screen, png in by.items()
            }

        keep_made(make)


def draw_ahead(rehearsal: Rehearsal, arrival: Arrival) -> None:
    """Draw what is looked at first: on every screen what it shows in the end, and what was sent.

    Raises CoreError.
    """
    frame = next(iter(rehearsal.moments.values()), 0)
    last = max((plan.arrives_s for plan in arrival.plans), default=0)
    shown: dict[int, list[str]] = {}
    for one in seen_at(arrival, last, USUAL_PEAK):
        if one.rendition is not None:
            shown.setdefault(one.rendition, []).append(one.screen.key)
    for place, screens in shown.items():
        look = Look(rendition=place, screen=screens[0], peak=USUAL_PEAK)
        sides = ("sent", "rendition")
        draw(rehearsal, sides, frame, look, arrival.plans[place].step, screens=screens)


def pair(rehearsal: Rehearsal, against: str, first: int, look: Look, step: int) -> IO[bytes]:
    """Return a stretch of both sides in step, opened, made if need be; raises CoreError.

    against: master or sent. first: the place among the shown frames at which it begins.
    """
    key = _key("pair", rehearsal, against, first, look)
    shown = shown_frames(rehearsal, step)
    numbers = shown[first : first + MOST_FRAMES]

    def make(folder: Path) -> Mapping[str, Path]:
        goal = folder / "pair.mp4"
        run_child(
            works.pair,
            against=against,
            numbers=numbers,
            shown=shown,
            pairs=_pairs(rehearsal, numbers) if against == "master" else {},
            goal=str(goal),
            time_s=PAIR_TIME_S,
            **_asked(rehearsal, look),
        )
        return {key: goal}

    return made(key, make)


def _asked(rehearsal: Rehearsal, look: Look) -> dict[str, Any]:
    return {**request_of(rehearsal), **asdict(look)}


def _key(*told: object) -> str:
    words = [
        f"{one.pk}/{one.promise_digest}" if isinstance(one, Rehearsal) else one for one in told
    ]
    return hashlib.sha256("|".join(map(str, words)).encode()).hexdigest()


def _pairs(rehearsal: Rehearsal, numbers: list[int]) -> dict[str, int]:
    """Return export's frame → master's frame, as far as the survey found them."""
    comparison = drawn_comparison_of(rehearsal.attempt)
    if comparison is None:
        return {}
    rows = comparison.survey.series or comparison.survey.pairs
    known = {one.export_frame: one.master_frame for one in rows}
    if not known:
        return {}
    made = {}
    for number in numbers:
        nearest = min(known, key=lambda frame: abs(frame - number))
        made[str(number)] = known[nearest] + number - nearest
    return made


def trial_picture(trial: Trial, place: int) -> IO[bytes]:
    """Return a part of one tried way's picture, opened, made if need be; raises CoreError."""
    outcome = trial.outcomes[place]
    key = _key("part", trial.rehearsal, trial.folder, outcome["file"], trial.question["screen"])

    def make(_folder: Path) -> Mapping[str, bytes]:
        found = run_child(
            works.trial_picture,
            file=str(trial.folder / outcome["file"]),
            like=str(trial.folder / trial.outcomes[0]["file"]),
            screen=trial.question["screen"],
            time_s=STILL_TIME_S,
        )
        return {key: base64.b64decode(found["png"])}

    return made(key, make)
