"""`make suspicions`: how often an export alone raises the right suspicion, or a false one.

The exports of `make reliability` and of `make kinds`, each looked at without its master: by default
on the pictures and encoders that thresholds were set on, with `aside` on those that were kept
aside. Counted are the causes that a picture or its headers can show at all (VISIBLE). What was not
raised, or raised falsely, is printed. Usage: python -m tests.suspicions [aside]
"""

import sys
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context
from pathlib import Path

from shapkeen.core.compared.alone import look_at_file
from tests import kinds, reliability, sides
from tests.builders import media
from tests.builders.media import HDR, SDR
from tests.core.judged.test_damage import weave

VISIBLE = frozenset(
    {
        "depth-reduced", "detail-below-raster", "frames-dropped", "frames-repeated", "index-last",
        "interlaced", "letterboxed", "light-level-missing", "light-level-wrong", "pillarboxed",
        "range-expanded", "seam-broken", "sphere-misflagged", "sphere-unflagged",
        "stereo-misflagged", "stereo-unflagged", "tag-conflict", "tag-missing", "tag-wrong",
        "upscale-nearest", "windowboxed",
    }
)  # fmt: skip
KINDS = ("ranges", "covers", "spheres", "eyes", "depths", "healthy")
TUNED = ("astronaut", "coffee", "chelsea", "rocket")
X264 = {"x264": SDR.with_options(crf="19", preset="veryfast")}


@dataclass(frozen=True)
class Look:
    """What one export was suspected of. raised: without what headers truly say of themselves."""

    about: str
    causes: frozenset[str]
    raised: frozenset[str]


def looks_of(about: str, causes: frozenset[str], path: Path) -> Look:
    told = look_at_file(path).suspicions
    facts = {one.cause for one in told if one.is_fact}
    return Look(about, causes, frozenset({one.cause for one in told} - (facts - causes)))


def of_acts(side: str, kind: str, picture: str, encoder: str) -> Iterator[Look]:
    """Yield looks at exports of `make reliability`, at woven ones and at wrongly tagged light."""
    hdr = kind == "hdr"
    tuned = {"x264": X264["x264"], "x265": sides.X265_SDR}
    sdr = tuned if side == "tuned" else reliability.SDR_ENCODERS
    coding = (reliability.HDR_ENCODERS if hdr else sdr)[encoder]
    acts = (
        [*reliability.hdr_light()]
        if hdr
        else [*reliability.other_acts(), *reliability.shape_acts(), *reliability.sdr_light()]
    )
    for act in acts:
        if act.causes and not act.causes & VISIBLE:
            continue
        made = act.make(reliability.frames_of(picture, act, hdr=hdr))
        path = media.write("alone-export", made, act.recode(coding))
        yield looks_of(f"{picture} {encoder} {act.name}", act.causes, Path(path))
    frames = reliability.frames_of(picture, None, hdr=hdr)
    if hdr:
        other = replace(SDR, pix_fmt="yuv420p10le", ending=".mov")
        path = media.write("alone-export", frames, other)
        yield looks_of(f"{picture} PQ under SDR tags", frozenset({"tag-wrong"}), Path(path))
        return
    woven = [
        tuple(weave(a, b) for a, b in zip(one, two, strict=True))
        for one, two in zip(frames, [*frames[1:], frames[-1]], strict=True)
    ]
    path = media.write("alone-export", woven, coding)
    yield looks_of(f"{picture} {encoder} woven", frozenset({"interlaced"}), Path(path))
    tagged = replace(coding, colour=HDR.colour)
    path = media.write("alone-export", frames, tagged)
    yield looks_of(f"{picture} {encoder} SDR under PQ tags", frozenset({"tag-wrong"}), Path(path))


def of_kinds(side: str, kind: str, picture: object) -> Iterator[Look]:
    for trial in kinds.KINDS[kind][1](picture, sides.SIDES[side]):
        if trial.causes and not trial.causes & VISIBLE:
            continue
        causes = trial.causes or (trial.may & VISIBLE)
        yield looks_of(f"{kind} {picture} {trial.name}", causes, Path(trial.export()))


def looked(job: tuple[str, ...]) -> list[Look]:
    side, what, *rest = job
    return list((of_acts if what == "acts" else of_kinds)(side, *rest))


def jobs_of(side: str) -> list[tuple[object, ...]]:
    """Return what is to be looked at."""
    pictures = TUNED if side == "tuned" else reliability.PICTURES
    coders = ("x264", "x265") if side == "tuned" else tuple(reliability.SDR_ENCODERS)
    jobs: list[tuple[object, ...]] = [
        (side, "acts", "sdr", picture, coder) for picture in pictures for coder in coders
    ]
    jobs += [
        (side, "acts", "hdr", picture, "x265" if side == "tuned" else "svt-av1")
        for picture in pictures
    ]
    jobs += [
        (side, "kinds", kind, picture)
        for kind in KINDS
        for picture in getattr(sides.SIDES[side], kinds.KINDS[kind][0])
    ]
    return jobs


def main(words: Sequence[str]) -> None:
    """Print what was missed or false, then the table by cause."""
    side = "aside" if "aside" in words else "tuned"
    table: dict[str, Counter] = defaultdict(Counter)
    healthy: Counter = Counter()
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        for looks in pool.map(looked, jobs_of(side)):
            for look in looks:
                false = look.raised - look.causes
                if not look.causes:
                    healthy["suspected" if false else "not suspected"] += 1
                for cause in look.causes & VISIBLE:
                    table[cause]["done"] += 1
                    table[cause]["raised"] += cause in look.raised
                for cause in false:
                    table[cause]["false"] += 1
                if false or (look.causes & VISIBLE) - look.raised:
                    print(f"  {look.about}: {sorted(look.raised)}", flush=True)
    print("| cause | done | raised | raised beside another act, or falsely |")
    for cause, told in sorted(table.items()):
        print(f"| {cause} | {told['done']} | {told['raised']} | {told['false']} |")
    total: Counter = sum(table.values(), Counter())
    print(f"| all | {total['done']} | {total['raised']} | {total['false']} |")
    print(f"{side}: healthy {dict(healthy)}")


if __name__ == "__main__":
    main(sys.argv[1:])
