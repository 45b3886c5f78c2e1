"""`make reliability`: of the causes that are named, how many are what was done.

On pictures and with encoders that nothing was tuned on: photographs that scikit-learn and
scikit-image ship, beside the four that the tests use; x265, SVT-AV1 and libvpx for SDR, x265 at
another speed and SVT-AV1 for HDR. Acts are plain NumPy, OpenCV and colour-science, of other sizes
than in the tests. What was named wrongly is printed, then tables by cause, by strength, and of
healthy exports. Usage: python -m tests.reliability [PICTURE …]
"""

import sys
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field, replace
from fractions import Fraction
from multiprocessing import get_context

import cv2
import numpy as np

from shapkeen.core.compared import compare_files
from shapkeen.core.errors import CoreError
from tests.builders import media
from tests.builders.media import (
    HDR,
    LIGHT,
    MASTERED,
    SDR,
    SVT_LIGHT,
    X265,
    Coding,
    Planes,
    padded,
    resized,
)
from tests.core.judged import test_conversions as light

PICTURES = ("china", "flower", "immunohistochemistry")
SIZE, COUNT = (640, 360), 24
SDR_ENCODERS = {
    "x265": Coding(
        codec="libx265",
        options=(("preset", "fast"), ("crf", "21"), ("x265-params", "log-level=error")),
    ),
    "svt-av1": Coding(codec="libsvtav1", options=(("preset", "8"), ("crf", "27"))),
    "libvpx": Coding(
        codec="libvpx-vp9",
        options=(("crf", "24"), ("b", "0"), ("deadline", "realtime"), ("cpu-used", "5")),
        ending=".webm",
        flags=(),
    ),
}
_SLOWER = (("preset", "fast"), ("crf", "19"), ("x265-params", X265 + MASTERED + LIGHT))
_SVT = (("preset", "8"), ("crf", "24"), ("svtav1-params", SVT_LIGHT))
HDR_ENCODERS = {
    "x265": replace(HDR, options=_SLOWER),
    "svt-av1": replace(HDR, codec="libsvtav1", options=_SVT),
}


@dataclass(frozen=True, kw_only=True)
class Act:
    """What is done on the way out. causes: what may rightly be named; none = healthy."""

    name: str
    causes: frozenset[str]
    make: Callable[[list[Planes]], Sequence[Planes]] = list
    recode: Callable[[Coding], Coding] = replace
    signal: Callable[[np.ndarray], np.ndarray] | None = None
    matrix: int | None = None
    aspect: Fraction | None = None


def planewise(act: Callable[[np.ndarray], np.ndarray]) -> Callable[[list[Planes]], list[Planes]]:
    def make(frames: list[Planes]) -> list[Planes]:
        top = 255 if frames[0][0].max() <= 255 else 1023

        def one(plane: np.ndarray) -> np.ndarray:
            made = act(plane.astype(np.float32))
            return np.clip(np.floor(made + 0.5), 0, top).astype(np.uint16)

        return [tuple(one(plane) for plane in item) for item in frames]

    return make


def sharpened(plane: np.ndarray) -> np.ndarray:
    return plane + 1.1 * (plane - cv2.GaussianBlur(plane, (0, 0), 1.2))


def shrunk(share: float, way: int) -> Callable[[np.ndarray], np.ndarray]:
    def act(plane: np.ndarray) -> np.ndarray:
        size = (round(plane.shape[1] * share), round(plane.shape[0] * share))
        small = cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
        return cv2.resize(small, plane.shape[::-1], interpolation=way)

    return act


def shape_acts() -> Iterator[Act]:
    def act(name: str, cause: str, make: Callable[[list[Planes]], Sequence[Planes]]) -> Act:
        return Act(name=name, causes=frozenset({cause}), make=make)

    yield act("letterboxed", "letterboxed", lambda f: padded(f, top=60, bottom=60))
    yield act("pillarboxed", "pillarboxed", lambda f: padded(f, left=80, right=80))
    yield act(
        "windowboxed", "windowboxed", lambda f: padded(smaller(f), top=36, bottom=36, **SIDES)
    )
    yield act("cropped", "cropped", lambda f: resized([cut(x, 64, 36) for x in f], 640, 360))
    yield act("shifted", "shifted", lambda f: [tuple(moved(p) for p in x) for x in f])
    yield act("mirrored", "mirrored", lambda f: [tuple(p[:, ::-1] for p in x) for x in f])
    yield act("turned over", "rotated", lambda f: [tuple(p[::-1, ::-1] for p in x) for x in f])
    yield act("stretched", "stretched", lambda f: resized(f, 720, 360))
    yield act("downscaled", "downscaled", lambda f: resized(f, 480, 270))


SIDES = {"left": 64, "right": 64}


def smaller(frames: list[Planes]) -> list[Planes]:
    return resized(frames, 512, 288)


def cut(item: Planes, across: int, down: int) -> Planes:
    y, cb, cr = item
    half = (slice(down // 2, -down // 2), slice(across // 2, -across // 2))
    return y[down:-down, across:-across], cb[half], cr[half]


def moved(plane: np.ndarray) -> np.ndarray:
    by = plane.shape[1] // 32
    made = np.full_like(plane, 16 if plane.shape[1] == SIZE[0] else 128)
    made[:, by:] = plane[:, :-by]
    return made


def other_acts() -> Iterator[Act]:
    yield Act(name="healthy", causes=frozenset())
    yield Act(
        name="untagged", causes=frozenset({"tag-missing"}), recode=lambda c: replace(c, colour=None)
    )
    yield Act(
        name="wrong tags",
        causes=frozenset({"tag-wrong"}),
        recode=lambda c: replace(c, colour=(9, 16, 9, 1)),
    )
    yield Act(name="blurred", causes=frozenset({"softened"}), make=planewise(blurred))
    yield Act(name="sharpened", causes=frozenset({"oversharpened"}), make=planewise(sharpened))
    yield Act(
        name="from 0.45 of the size",
        causes=frozenset({"detail-below-raster"}),
        make=planewise(shrunk(0.45, cv2.INTER_CUBIC)),
    )
    yield Act(
        name="repeated samples",
        causes=frozenset({"upscale-nearest"}),
        make=planewise(shrunk(0.5, cv2.INTER_NEAREST)),
    )
    yield Act(
        name="a frame lost",
        causes=frozenset({"frames-dropped"}),
        make=lambda f: [x for n, x in enumerate(f) if n != 13],
    )
    yield Act(
        name="a frame twice",
        causes=frozenset({"frames-repeated"}),
        make=lambda f: [f[n] for n in (*range(11), 10, *range(11, COUNT))],
    )
    yield Act(name="ends cut", causes=frozenset({"trimmed"}), make=lambda f: f[3:-4])
    yield Act(
        name="at 25",
        causes=frozenset({"rate-changed"}),
        recode=lambda c: replace(c, rate=Fraction(25)),
    )
    yield Act(
        name="index last",
        causes=frozenset({"index-last"}),
        recode=lambda c: replace(c, flags=(), ending=".mp4", codec="libx264", options=X264),
    )


X264 = (("preset", "faster"), ("crf", "19"))


def blurred(plane: np.ndarray) -> np.ndarray:
    return cv2.GaussianBlur(plane, (0, 0), 1.1)


def sdr_light() -> Iterator[Act]:
    def act(name: str, cause: str, signal=None, matrix: int | None = None) -> Act:
        return Act(name=name, causes=frozenset({cause}), signal=signal, matrix=matrix)

    yield act("matrix 601", "matrix-swapped", matrix=6)
    yield act("to P3-D65", "gamut-converted", light.to_gamut(1, 12, hdr=False))
    yield act("to BT.2020", "gamut-converted", light.to_gamut(1, 9, hdr=False))
    yield act("to sRGB", "transfer-converted", light.to_srgb)
    yield act("cut at 0.75", "highlights-clipped", light.cut_at(0.75))
    yield act("squeezed", "range-compressed", light.squeezed)
    yield act("stretched codes", "range-expanded", light.stretched)
    yield act("power 0.9", "gamma-shifted", light.powered(0.9))
    yield act("power 1.12", "gamma-shifted", light.powered(1.12))


def hdr_light() -> Iterator[Act]:
    def act(name: str, cause: str, signal=None, matrix: int | None = None) -> Act:
        return Act(name=name, causes=frozenset({cause}), signal=signal, matrix=matrix)

    yield Act(name="healthy", causes=frozenset())
    yield act("matrix 709", "matrix-swapped", matrix=1)
    yield act("to P3-D65", "gamut-converted", light.to_gamut(9, 12, hdr=True))
    yield act("to HLG", "transfer-converted", light.to_hlg)
    yield act("rolled off", "tone-compressed", light.rolled_off)
    yield act("cut at 300", "highlights-clipped", light.cut_at(float(light.pq_signal(300.0))))
    yield act("squeezed", "range-compressed", light.squeezed)
    yield act("power 1.06", "gamma-shifted", light.powered(1.06))


@dataclass(frozen=True)
class Outcome:
    """What became of one act. named: causes with their strengths."""

    kind: str
    picture: str
    encoder: str
    act: str
    causes: frozenset[str]
    named: tuple[tuple[str, float], ...]
    error: str = ""


@dataclass
class Tables:
    """All outcomes, counted."""

    by_cause: dict[str, Counter] = field(default_factory=lambda: defaultdict(Counter))
    by_strength: dict[str, Counter] = field(default_factory=lambda: defaultdict(Counter))
    healthy: Counter = field(default_factory=Counter)

    def add(self, one: Outcome) -> None:
        names = [name for name, _ in one.named]
        if not one.causes:
            self.healthy["with a cause" if names else "without"] += 1
        for cause in one.causes:
            told = "named" if cause in names else "missed, another" if names else "missed, silent"
            self.by_cause[cause][told] += 1
        for name, strength in one.named:
            right = name in one.causes
            self.by_cause[name]["right" if right else "false"] += 1
            low = next(edge for edge in (0.97, 0.95, 0.9, 0.8, 0.0) if strength >= edge)
            self.by_strength[f"from {low:.2f}"]["right" if right else "false"] += 1
        if one.error or set(names) != one.causes:
            print(f"  {one.kind} {one.picture} {one.encoder}: {one.act}: {names} {one.error}")


def frames_of(picture: str, act: Act | None, *, hdr: bool) -> list[Planes]:
    """Return planes of a picture, its signal changed as an act does."""
    own = 9 if hdr else 1
    matrix = act.matrix or own if act else own
    photos = media.photo_frames(picture, SIZE, COUNT)
    signals = [light_of(frame) for frame in photos] if hdr else photos
    if act and act.signal:
        signals = [act.signal(signal) for signal in signals]
    return light.planes([signal.astype(np.float32) for signal in signals], hdr=hdr, by=matrix)


def light_of(frame: np.ndarray) -> np.ndarray:
    """Return a PQ signal in BT.2020 of a photograph's light, up to 900 cd/m²."""
    linear = np.clip(media.srgb_light_from_signal(frame) @ media.between(1, 9).T, 0, 1)
    return light.pq_signal(linear**1.1 * 900.0)


def judged(job: tuple[str, str, str]) -> list[Outcome]:
    """Return what became of every act on one picture through one encoder."""
    kind, picture, encoder = job
    hdr = kind == "hdr"
    coding = (HDR_ENCODERS if hdr else SDR_ENCODERS)[encoder]
    best = replace((HDR if hdr else SDR).with_options(crf="4"), ending=".mov")
    master = media.write(f"rel-{picture}-{kind}", frames_of(picture, None, hdr=hdr), best)
    acts = [*hdr_light()] if hdr else [*other_acts(), *shape_acts(), *sdr_light()]
    outcomes = []
    for act in acts:
        made = act.make(frames_of(picture, act, hdr=hdr))
        export = media.write("rel-export", made, act.recode(coding))
        try:
            causes = compare_files(master, export, workers=1, frames=8).survival.causes
            named, error = tuple((cause.id, cause.strength) for cause in causes), ""
        except CoreError as fault:
            named, error = (), fault.code
        outcomes.append(Outcome(kind, picture, encoder, act.name, act.causes, named, error))
    return outcomes


def main(words: Sequence[str]) -> None:
    """Print what was named wrongly, then the tables."""
    pictures = [word for word in words if word in PICTURES] or PICTURES
    jobs = [("sdr", picture, encoder) for picture in pictures for encoder in SDR_ENCODERS]
    jobs += [("hdr", picture, encoder) for picture in pictures for encoder in HDR_ENCODERS]
    tables = Tables()
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        for outcomes in pool.map(judged, jobs):
            for one in outcomes:
                tables.add(one)
    print("| cause | done | named | another | silent | named in all | of these rightly |")
    for cause, told in sorted(tables.by_cause.items()):
        done = told["named"] + told["missed, another"] + told["missed, silent"]
        said = told["right"] + told["false"]
        print(
            f"| {cause} | {done} | {told['named']} | {told['missed, another']} | "
            f"{told['missed, silent']} | {said} | {told['right']} |"
        )
    for strength, told in sorted(tables.by_strength.items(), reverse=True):
        print(f"| strength {strength} | {told['right'] + told['false']} | {told['right']} |")
    print(f"healthy exports: {dict(tables.healthy)}")


if __name__ == "__main__":
    main(sys.argv[1:])
