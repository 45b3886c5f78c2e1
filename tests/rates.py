"""`make rates`: how many acts on spheres and on two eyes are named rightly, and nothing else.

Four spheres and four pairs of eyes, master at CRF 8, each act at CRF 16 and 24, with the values
that were applied; healthy ones beside them. What went wrong is printed, then a table.
Usage: python -m tests.rates [spheres] [eyes] [CRF …]
"""

import sys
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from multiprocessing import get_context

import numpy as np

from shapkeen.core.compared import compare_files
from shapkeen.core.judged import Comparison
from tests.builders.boxes import flagged
from tests.builders.eyes import eyes_frames, packed, shifted
from tests.builders.media import SDR, Planes, coded, photo_frames, resized, write
from tests.builders.spheres import cut, darker_edge, rolled, sphere_planes, through, torn, yawed

CRFS = ("16", "24")
SPHERES = (
    ("astronaut", "coffee", "brick", "rocket", "grass", "chelsea"),
    ("camera", "coins", "gravel", "coffee", "moon", "page"),
    ("rocket", "chelsea", "gravel", "astronaut", "brick", "camera"),
    ("coins", "rocket", "grass", "chelsea", "coffee", "astronaut"),
)
EYES = ("motorcycle", "coffee", "astronaut", "chelsea")
WHOLE, SIDE_BY_SIDE = {"projection": "equirectangular"}, {"stereo": "left-right"}
Flags = Mapping[str, object] | None


@dataclass(frozen=True, slots=True)
class Act:
    """What is done to a master, and which cause with which values is right; None = healthy."""

    name: str
    cause: str | None
    made: Sequence[Planes]
    flags: Flags
    master: Sequence[Planes]
    own: Flags
    values: Mapping[str, float] = field(default_factory=dict)


def sphere_acts(faces: tuple[str, ...]) -> Iterator[Act]:
    """Yield every act on one sphere."""
    planes = sphere_planes(faces)
    flat = [coded(f, matrix=1, depth=8) for f in photo_frames("coffee", (768, 384), 8)]
    act = partial(Act, flags=WHOLE, master=planes, own=WHOLE)
    yield act("healthy", None, planes)
    yield Act("healthy flat", None, flat, None, flat, None)
    yield act("unflagged", "sphere-unflagged", planes, flags=None)
    yield act("another layout", "sphere-misflagged", planes, flags={"projection": "cubemap"})
    yield Act("flagged flat", "sphere-misflagged", flat, WHOLE, flat, None)
    for yaw in (90.0, 3.75):
        turned = rolled(planes, yaw / 360)
        yield act(f"turned by {yaw}", "sphere-turned", turned, values={"yaw": yaw})
    for yaw in (17.3, -3.2):
        yield act(f"turned by {yaw}", "sphere-turned", yawed(planes, yaw), values={"yaw": yaw})
    tilted = through(planes, "e:e:pitch=-6:roll=4:interp=cubic")
    yield act("tilted", "sphere-turned", tilted, values={"pitch": 6, "roll": -4})
    yield act("cut at the sides", "sphere-cropped", cut(planes, across=1))
    poles = resized(cut(planes, down=1), 768, 384)
    yield act("cut at the poles, stretched", "sphere-cropped", poles)
    for by in (0.25, 0.1):
        yield act(f"edge darker by {by:.0%}", "seam-broken", darker_edge(planes, by))
    yield act("halves apart", "seam-broken", torn(planes))
    yield act("into 16:9", "stretched", resized(planes, 768, 432))


def eyes_acts(scene: str) -> Iterator[Act]:
    """Yield every act on one pair of eyes."""
    frames = eyes_frames(scene)
    planes, halves = packed(frames), packed(frames, half=True)
    one = [coded(left, matrix=1, depth=8) for left, _ in frames]
    act = partial(Act, flags=SIDE_BY_SIDE, master=planes, own=SIDE_BY_SIDE)
    stacked = {"stereo": "top-bottom"}
    yield act("healthy", None, planes)
    yield Act("healthy, half", None, halves, SIDE_BY_SIDE, halves, SIDE_BY_SIDE)
    yield Act("healthy, one eye", None, one, None, one, None)
    yield act("unflagged", "stereo-unflagged", planes, flags=None)
    yield act("another layout", "stereo-misflagged", planes, flags=stacked)
    yield Act("one eye flagged as two", "stereo-misflagged", one, SIDE_BY_SIDE, one, None)
    exchanged, half = (packed(frames, way="right-left", half=part) for part in (False, True))
    yield act("exchanged", "eyes-swapped", exchanged)
    yield Act("exchanged, half", "eyes-swapped", half, SIDE_BY_SIDE, halves, SIDE_BY_SIDE)
    yield act("one eye twice", "eye-repeated", packed([(left, left) for left, _ in frames]))
    for dy in (4, 1):
        lower = packed(shifted(frames, dy=dy))
        yield act(f"lower by {dy}", "eyes-offset", lower, values={"dy": dy / 3.6})
    for dx in (8, -2):
        slid = packed(shifted(frames, dx=dx))
        yield act(f"slid by {dx}", "convergence-shifted", slid, values={"shift": dx / 6.4})
    over = packed(frames, way="top-bottom")
    yield act("one over the other", "layout-changed", over, flags=stacked)
    yield act("half size", "layout-changed", halves)
    yield act("one eye left", "layout-changed", one, flags=None)


ACTS: dict[str, tuple[Callable[..., Iterator[Act]], Sequence[object]]] = {
    "spheres": (sphere_acts, SPHERES),
    "eyes": (eyes_acts, EYES),
}


@dataclass(frozen=True, slots=True)
class Outcome:
    """How one act was judged. off: the worst distance from the values that were applied."""

    name: str
    right: bool
    told: str
    off: float
    seam: float


def outcome(act: Act, found: Comparison) -> Outcome:
    """Return how an act was judged; a healthy one may leave nothing unproven either."""
    survival, sphere = found.survival, found.survey.sphere
    named = [cause.id for cause in survival.causes]
    open_ones = [v.trait for v in survival.verdicts if v.verdict == "unproven"]
    right = named == ([act.cause] if act.cause else [])
    values = survival.causes[0].values if survival.causes else {}
    off = max((abs(float(values.get(k, np.inf)) - v) for k, v in act.values.items()), default=0.0)
    seam = sphere.seam / sphere.ordinary if sphere and sphere.seam and sphere.ordinary else 0.0
    return Outcome(
        act.name, right and (bool(act.cause) or not open_ones), f"{named} {open_ones}", off, seam
    )


def judged(job: tuple[str, int, str]) -> list[Outcome]:
    """Return the outcomes of every act on one picture at one CRF."""
    kind, at, crf = job
    acts, scenes = ACTS[kind]
    made = []
    for act in acts(scenes[at]):
        name = f"rates-{kind}-{at}-{crf}"
        master = write(f"{name}-master", act.master, SDR.with_options(crf="8"))
        coding = SDR.with_options(crf=crf, preset="veryfast")
        export = write(f"{name}-export", act.made, coding)
        files = [
            flagged(path, **flags) if flags else path
            for path, flags in ((master, act.own), (export, act.flags))
        ]
        made.append(outcome(act, compare_files(*files, workers=1)))
    return made


def main(words: Sequence[str]) -> None:
    """Print what went wrong, and a table of the rates."""
    crfs = [word for word in words if word.isdigit()] or CRFS
    for kind in [word for word in words if word in ACTS] or ACTS:
        jobs = [(kind, at, crf) for at in range(len(ACTS[kind][1])) for crf in crfs]
        found: dict[str, list[Outcome]] = {}
        with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
            for job, outcomes in zip(jobs, pool.map(judged, jobs), strict=True):
                for one in outcomes:
                    found.setdefault(one.name, []).append(one)
                    if not one.right:
                        print(f"  wrong: {job} {one.name}: {one.told}", flush=True)
        more = "step at the seam ÷ elsewhere" if kind == "spheres" else ""
        print(f"{kind:<30} right        off    {more}")
        for name, ones in found.items():
            count, off = sum(one.right for one in ones), max(one.off for one in ones)
            seams = [one.seam for one in ones]
            steps = f"{min(seams):.2f} to {max(seams):.2f}" if more else ""
            print(f"{name:<30} {count:>2} of {len(ones)}  {off:8.4f}    {steps}")


if __name__ == "__main__":
    main(sys.argv[1:])
