"""`make kinds`: kinds of export that are easily taken for another, and healthy ones.

By default on the pictures and encoders that the judging was tuned on, or on another side
(sides.py). What was not named, or named beside it, is printed, then a table by kind.
Usage: python -m tests.kinds [SIDE] [KIND …]
"""

import sys
from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import lru_cache, partial
from multiprocessing import get_context
from pathlib import Path
from time import monotonic

import cv2
import numpy as np

from shapkeen.core.compared import compare_files
from shapkeen.core.errors import CoreError
from shapkeen.core.promised import Promise, Promised
from tests.builders import media
from tests.builders.boxes import flagged
from tests.builders.covering import marked, painted, written
from tests.builders.eyes import eyes_frames, packed
from tests.builders.folding import CURVES, WAYS, bt2390, folded
from tests.builders.media import (
    HDR,
    LOSSLESS,
    SDR,
    Coding,
    Planes,
    changed,
    coded,
    padded,
    photo_frames,
    resized,
    write,
)
from tests.builders.spheres import sphere_planes
from tests.core.judged import test_conversions as light
from tests.sides import SIDES, SVT, Side

SIZE, COUNT = (640, 360), 12


@dataclass(frozen=True, kw_only=True)
class Trial:
    """One export. causes: what must be named; may: what may stand beside it; kept: overall."""

    name: str
    causes: frozenset[str]
    master: Callable[[], Path]
    export: Callable[[], Path]
    may: frozenset[str] = frozenset()
    promise: Promise | None = None
    overall: str | None = None
    lost: str | None = None
    value: Callable[[dict], bool] | None = None


def _named(*names: str) -> frozenset[str]:
    return frozenset(names)


# HDR --------------------------------------------------------------------------------------------


@lru_cache(maxsize=3)
def hdr_light(picture: str, *, bright: bool = False, wide: float = 0.0) -> list[np.ndarray]:
    """Return BT.2020 light in cd/m² of a photograph: whites at 203 and highlights up to 1000.

    bright: up to 900 all over. wide: by how much its own RGB is taken as BT.2020's.
    """
    frames = []
    for frame in photo_frames(picture, SIZE, COUNT):
        linear = media.srgb_light_from_signal(frame)
        step = (1 - wide) * media.between(1, 9) + wide * np.eye(3)
        linear = np.clip(linear @ step.T, 0, 1)
        most = linear.max(axis=-1, keepdims=True)
        gain = 900.0 if bright else 203.0 * (1 + 3.93 * np.clip((most - 0.55) / 0.45, 0, 1) ** 2)
        frames.append((linear * gain).astype(np.float32))
    return frames


def hdr_coded(frames: Sequence[np.ndarray]) -> list[Planes]:
    return [coded(light.pq_signal(f).astype(np.float32), matrix=9, depth=10) for f in frames]


def hdr_file(name: str, frames: Sequence[np.ndarray], coding: Coding) -> Path:
    return write(name, hdr_coded(frames), coding)


def best_hdr(picture: str, **how: object) -> Path:
    coding = replace(HDR.with_options(crf="4"), ending=".mov")
    told = "-".join(f"{k}{v}" for k, v in how.items())
    return hdr_file(f"kinds-hdr-{picture}{told}", hdr_light(picture, **how), coding)


SDR_PROMISE = Promise(
    traits={
        name: Promised(value=1, origin="these trials", explicit=True)
        for name in ("transfer", "primaries", "matrix")
    }
    | {"bit_depth": Promised(value=8, origin="these trials", explicit=True)}
)


def sdr_of(picture: str, make: Callable[[np.ndarray], np.ndarray], **how: object) -> list[Planes]:
    frames = hdr_light(picture, **how)
    return [coded(make(f).astype(np.float32), matrix=1, depth=8) for f in frames]


def folds(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 1: HDR folded into SDR, unpromised; then promised, ordinary ones and bad ones."""
    for number, curve in enumerate(CURVES):
        for turn in (0, 1):
            way = WAYS[(number + turn * 2 + len(picture)) % 4]
            white = (100.0, 203.0, 300.0)[(number + turn + len(picture)) % 3]
            bright = bool(turn)
            encoder = list(side.sdr)[(number + turn) % len(side.sdr)]
            make = partial(folded, curve=curve, way=way, white=white, peak=900 if bright else 1000)
            yield Trial(
                name=f"{curve} {way} {white:.0f} {'bright' if bright else ''} {encoder}",
                causes=_named("tone-compressed"),
                master=partial(best_hdr, picture, bright=bright),
                export=lambda make=make, bright=bright, encoder=encoder: write(
                    "kinds-export", sdr_of(picture, make, bright=bright), side.sdr[encoder]
                ),
            )


def promised_folds(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 1: HDR folded into SDR by promise."""
    coding = next(iter(side.sdr.values()))

    def trial(name: str, make: Callable[[np.ndarray], np.ndarray], *, good: bool) -> Trial:
        return Trial(
            name=name,
            causes=frozenset(),
            may=frozenset() if good else _named("tone-compressed", "highlights-clipped",
                "range-compressed", "gamma-shifted", "matrix-swapped", "gamut-converted"),
            master=partial(best_hdr, picture),
            export=lambda: write("kinds-export", sdr_of(picture, make), coding),
            promise=SDR_PROMISE,
            overall="kept" if good else None,
            lost=None if good else "tone gamut",
        )  # fmt: skip

    for curve in ("reinhard", "hable", "mobius", "bt2390", "bt2446"):
        white = 100.0 if curve in ("bt2390", "bt2446") else 203.0
        way = WAYS[len(curve + picture) % 4]
        make = partial(folded, curve=curve, way=way, white=white, peak=1000)
        yield trial(f"{curve} {way}", make, good=True)

    ordinary = partial(folded, curve="bt2390", way="luminance", white=100.0, peak=1000)
    yield trial("milky", lambda f: 0.16 + 0.62 * ordinary(f), good=False)
    yield Trial(
        name="unfolded",
        causes=_named("transfer-converted"),
        master=partial(best_hdr, picture),
        export=lambda: hdr_file("kinds-export", hdr_light(picture), next(iter(side.hdr.values()))),
        may=_named("tag-wrong"),
        promise=SDR_PROMISE,
    )
    clipped = partial(folded, curve="clip", way="channels", white=40.0, peak=1000)
    yield trial("clipped", clipped, good=False)
    yield trial("hue turned", lambda f: ordinary(f)[..., [2, 0, 1]], good=False)


# Light and colour -----------------------------------------------------------------------------


def sdr_planes(picture: str) -> list[Planes]:
    return [coded(f, matrix=1, depth=8) for f in photo_frames(picture, SIZE, COUNT)]


def best_sdr(picture: str) -> Path:
    coding = replace(SDR.with_options(crf="4"), ending=".mov")
    return write(f"kinds-sdr-{picture}", sdr_planes(picture), coding)


def signalled(picture: str, act: Callable[[np.ndarray], np.ndarray]) -> list[Planes]:
    frames = photo_frames(picture, SIZE, COUNT)
    return [coded(act(f.astype(np.float64)).astype(np.float32), matrix=1, depth=8) for f in frames]


HLG_X265 = "log-level=error:colorprim=bt2020:transfer=arib-std-b67:colormatrix=bt2020nc"
HLG = Coding(
    codec="libx265",
    options=(("preset", "ultrafast"), ("crf", "18"), ("x265-params", HLG_X265)),
    colour=(9, 18, 9, 1),
    pix_fmt="yuv420p10le",
)


def hlg_planes(picture: str, act: Callable[[np.ndarray], np.ndarray] = np.asarray) -> list[Planes]:
    signals = (light.to_hlg(light.pq_signal(f)) for f in hdr_light(picture))
    return [coded(act(s).astype(np.float32), matrix=9, depth=10) for s in signals]


def ranges(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 2: codes stretched and squeezed, in 8 bits and in HLG."""
    for act, cause in ((light.stretched, "range-expanded"), (light.squeezed, "range-compressed")):
        for name, coding in side.sdr.items():
            yield Trial(
                name=f"{cause} 8 bits {name}",
                causes=_named(cause),
                master=partial(best_sdr, picture),
                export=lambda act=act, coding=coding: write(
                    "kinds-export", signalled(picture, act), coding
                ),
            )
        for name in side.hdr:
            coding = replace(HLG, codec="libsvtav1", options=SVT.options) if name == "svt" else HLG
            yield Trial(
                name=f"{cause} HLG {name}",
                causes=_named(cause),
                master=lambda: write(
                    f"kinds-hlg-{picture}",
                    hlg_planes(picture),
                    replace(HLG.with_options(crf="4"), ending=".mov"),
                ),
                export=lambda act=act, coding=coding: write(
                    "kinds-export", hlg_planes(picture, act), coding
                ),
            )


LEAST_SHARE, MOVED_CODES = 3e-4, 9


def moves_little(frames: Sequence[np.ndarray], act: Callable[[np.ndarray], np.ndarray]) -> bool:
    """Return whether next to nothing of the coded picture moves by MOVED_CODES or more."""
    before, after = hdr_coded(frames), hdr_coded([act(frame) for frame in frames])
    shares = [
        np.mean([
            np.abs(one[plane].astype(int) - other[plane]) >= MOVED_CODES
            for one, other in zip(before, after, strict=True)
        ])
        for plane in range(3)
    ]  # fmt: skip
    return max(shares) < LEAST_SHARE


def inside(f: np.ndarray) -> np.ndarray:
    there = np.maximum(f @ light.matrix(9, 1).T, 0)
    return np.maximum(there @ light.matrix(1, 9).T, 0)


def cuts(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 3: highlights cut at 400 and 600 cd/m², little of the gamut cut."""
    for coder, coding in side.hdr.items():
        for nits in (400.0, 600.0):
            for bright in (False, True):
                cut = partial(np.minimum, nits)
                if moves_little(hdr_light(picture, bright=bright), cut):
                    continue  # the same picture before and after
                yield Trial(
                    name=f"cut at {nits:.0f} {'bright' if bright else ''} {coder}",
                    causes=_named("highlights-clipped"),
                    master=partial(best_hdr, picture, bright=bright),
                    export=lambda cut=cut, bright=bright, coding=coding: hdr_file(
                        "kinds-export",
                        [cut(f) for f in hdr_light(picture, bright=bright)],
                        coding,
                    ),
                    value=lambda v, nits=nits: abs(v["level"] / nits - 1) < 0.06,
                )
        for wide in (0.3, 0.6):
            if moves_little(hdr_light(picture, wide=wide), inside):
                continue
            yield Trial(
                name=f"gamut cut, {wide:.0%} wide {coder}",
                causes=_named("gamut-clipped"),
                master=partial(best_hdr, picture, wide=wide),
                export=lambda wide=wide, coding=coding: hdr_file(
                    "kinds-export", [inside(f) for f in hdr_light(picture, wide=wide)], coding
                ),
            )


def rolls(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 3: highlights rolled off to a peak that is near: no cut, whatever else is said.

    But to 750 cd/m²: from the nearest cut that one differs by 2.8 codes of 10 bits at most, by
    less than tones that are kept may (3), so both names are right.
    """
    for coder, coding in side.hdr.items():
        for nits in (400.0, 600.0, 750.0):
            for bright in (False, True):
                roll = partial(rolled, nits=nits)
                if moves_little(hdr_light(picture, bright=bright), roll):
                    continue
                yield Trial(
                    name=f"rolled off to {nits:.0f} {'bright' if bright else ''} {coder}",
                    causes=frozenset(),
                    may=_named("tone-compressed", *(["highlights-clipped"] * (nits == 750))),
                    master=partial(best_hdr, picture, bright=bright),
                    export=lambda roll=roll, bright=bright, coding=coding: hdr_file(
                        "kinds-export",
                        [roll(f) for f in hdr_light(picture, bright=bright)],
                        coding,
                    ),
                )


def rolled(light: np.ndarray, nits: float) -> np.ndarray:
    """Return light up to 1000 cd/m² rolled off as ITU-R BT.2390-8 has it."""
    return bt2390(np.minimum(light, 1000.0) / 100, 10.0, nits / 100) * 100


# What covers the picture ----------------------------------------------------------------------

LOW = (0.1, 0.9)
OUTLINED = {"box": False}
AT_SIDES = {"left": 0.07, "right": 0.07}
TIMECODE, ABOVE, WORDS = "01:00:00:%02d", "00:59:58:%02d", "And then the planets stop."
PAINTED = {
    "bars of 2.39": ("letterboxed", partial(painted, top=0.128, bottom=0.128)),
    "bars at the sides": ("pillarboxed", partial(painted, left=0.125, right=0.125)),
    "a bar below": ("letterboxed", partial(painted, bottom=0.2)),
    "bars all round": ("windowboxed", partial(painted, top=0.06, bottom=0.06, **AT_SIDES)),
    "timecode": ("overlay-added", partial(written, text=TIMECODE, at=(0.3, 0.93), high=0.08)),
    "timecode above": ("overlay-added", partial(written, text=ABOVE, at=(0.05, 0.12), high=0.06)),
    "subtitles": ("overlay-added", partial(written, text=WORDS, at=LOW, high=0.09, **OUTLINED)),
    "a mark": ("overlay-added", marked),
}  # fmt: skip


def covers(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 4: bars, a timecode, a mark, subtitles over the picture."""
    for number, (name, (cause, act)) in enumerate(PAINTED.items()):
        encoder = list(side.sdr)[number % len(side.sdr)]
        yield Trial(
            name=f"{name} {encoder}",
            causes=_named(cause),
            master=partial(best_sdr, picture),
            export=lambda act=act, encoder=encoder: write(
                "kinds-export", act(sdr_planes(picture)), side.sdr[encoder]
            ),
        )


# Spheres and eyes -----------------------------------------------------------------------------

WHOLE = {"projection": "equirectangular"}
BESIDE = {"stereo": "left-right"}


def one_side_cut(planes: Sequence[Planes], share: float = 1 / 16) -> list[Planes]:
    """Return spheres cut at the right and stretched back."""
    width, height = planes[0][0].shape[::-1]
    kept = round(width * (1 - share) / 2) * 2
    narrow = [
        (y[:, :kept], cb[:, : kept // 2], cr[:, : kept // 2]) for y, cb, cr in planes
    ]  # fmt: skip
    return resized(narrow, width, height)


def sheared(planes: Sequence[Planes], share: float = 0.04) -> list[Planes]:
    """Return planes with each row moved to the side, the lowest the furthest."""

    def one(plane: np.ndarray) -> np.ndarray:
        height, width = plane.shape
        matrix = np.array([[1, share * width / height, -share * width / 2], [0, 1, 0]], float)
        flags = cv2.INTER_CUBIC
        drawn = cv2.warpAffine(plane.astype(np.float32), matrix, (width, height), flags=flags,
                               borderMode=cv2.BORDER_REPLICATE)  # fmt: skip
        return np.clip(np.round(drawn), 0, 255).astype(np.uint16)

    return [tuple(one(p) for p in item) for item in planes]


def bare_poles(planes: Sequence[Planes], share: float = 0.12) -> list[Planes]:
    return painted(planes, top=share, bottom=share)


def softer(planes: Sequence[Planes], sigma: float = 1.6) -> list[Planes]:
    def one(plane: np.ndarray) -> np.ndarray:
        drawn = cv2.GaussianBlur(plane.astype(np.float32), (0, 0), sigma)
        return np.clip(np.round(drawn), 0, 255).astype(np.uint16)

    return [tuple(one(p) for p in item) for item in planes]


def sphere_trials(faces: tuple[str, ...], side: Side) -> Iterator[Trial]:
    """Kinds 5, 6, 7 and 9 on a sphere."""
    planes = sphere_planes(faces)
    mirror = [tuple(np.hstack([p[:, : p.shape[1] // 2], p[:, : p.shape[1] // 2][:, ::-1]])
                    for p in item) for item in planes]  # fmt: skip
    wall = sphere_planes(("brick", "gravel", "brick", "gravel", "grass", "grass"))

    def trial(name: str, causes: frozenset[str], made, *, flags=WHOLE, own=planes, **more) -> Trial:
        coders = [
            one for one in side.sdr if one != "vp9"
        ]  # its MP4 here has neither tags nor index
        coder = coders[len(name) % len(coders)]
        coding = replace(side.sdr[coder], ending=".mp4")
        best = SDR.with_options(crf="6")

        def export() -> Path:
            path = write("kinds-export", made, coding)
            return flagged(path, **flags) if flags else path

        return Trial(
            name=f"{name} {coder}",
            causes=causes,
            master=lambda: flagged(write("kinds-master", own, best), **WHOLE),
            export=export,
            **more,
        )

    act = _named("cropped", "stretched", "shifted", "sphere-cropped", "sphere-turned")
    yield trial("5 one side cut", _named("seam-broken"), one_side_cut(planes), may=act)
    yield trial("5 sheared", _named("seam-broken"), sheared(planes), may=act)
    yield trial("6 unflagged", _named("sphere-unflagged"), planes, flags=None)
    yield trial("6 mirror unflagged", _named("sphere-unflagged"), mirror, flags=None, own=mirror)
    yield trial("6 wall unflagged", _named("sphere-unflagged"), wall, flags=None, own=wall)
    yield trial(
        "7 unflagged, bars",
        _named("sphere-unflagged", "letterboxed"),
        padded(planes, top=48, bottom=48),
        flags=None,
    )
    yield trial("9 bare poles", _named("sphere-cropped"), bare_poles(planes))
    yield trial(
        "9 pose flag", _named("sphere-turned"), planes,
        flags=WHOLE | {"pose": (30.0, 0.0, 0.0)},
    )  # fmt: skip
    yield trial("H sphere", frozenset(), planes, overall="kept")


def eyes_trials(scene: str, side: Side) -> Iterator[Trial]:
    """Kind 7: a second act beside an exchange of the eyes."""
    frames = eyes_frames(scene)
    planes = packed(frames)
    swapped = packed(frames, way="right-left")
    for name, causes, made in (
        ("7 swapped, soft", ("eyes-swapped", "softened"), softer(swapped)),
        ("7 swapped, squeezed", ("eyes-swapped", "range-compressed"), squeezed_codes(swapped)),
        ("H eyes", (), planes),
    ):
        coding = replace(next(iter(side.sdr.values())), ending=".mp4")
        yield Trial(
            name=name,
            causes=_named(*causes),
            master=lambda: flagged(
                write("kinds-master", planes, SDR.with_options(crf="6")), **BESIDE
            ),
            export=lambda made=made, coding=coding: flagged(
                write("kinds-export", made, coding), **BESIDE
            ),
            overall=None if causes else "kept",
        )


def squeezed_codes(planes: Sequence[Planes]) -> list[Planes]:
    return changed(
        planes,
        luma=lambda y: 16 + y * 219 / 255,
        chroma=lambda c: 128 + (c - 128) * 224 / 255,
    )


def moved(planes: Sequence[Planes], by: int = 20) -> list[Planes]:
    """Return planes moved to the right, black on the left."""
    made = []
    for item in planes:
        parts = []
        for number, plane in enumerate(item):
            step = by if number == 0 else by // 2
            drawn = np.full_like(plane, 128 if number else 16)
            drawn[:, step:] = plane[:, :-step]
            parts.append(drawn)
        made.append(tuple(parts))
    return made


def together(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 7: a second act hidden by the first."""
    for name, causes, act in (
        ("shift, squeeze", ("shifted", "range-compressed"), lambda p: moved(squeezed_codes(p))),
        ("bars, soft", ("letterboxed", "softened"), lambda p: padded(softer(p), top=44, bottom=44)),
        ("mirror, squeeze", ("mirrored", "range-compressed"),
         lambda p: [tuple(x[:, ::-1] for x in i) for i in squeezed_codes(p)]),
    ):  # fmt: skip
        encoder = list(side.sdr)[len(name) % len(side.sdr)]
        yield Trial(
            name=f"{name} {encoder}",
            causes=_named(*causes),
            master=partial(best_sdr, picture),
            export=lambda act=act, encoder=encoder: write(
                "kinds-export", act(sdr_planes(picture)), side.sdr[encoder]
            ),
        )


# Coding and depth -----------------------------------------------------------------------------

ROUGH = {
    "x264": ("crf", "44"),
    "x265": ("crf", "44"),
    "svt": ("crf", "62"),
    "vp9": ("crf", "63"),
}


def rough(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 8: heavy coding is told; a generation of a mezzanine codec is none."""

    def trial(name: str, master: Callable[[], Path], made: Callable[[], list[Planes]], coding):
        key, value = ROUGH[name.rsplit(maxsplit=1)[-1]]
        return Trial(
            name=name,
            causes=_named("generation-loss"),
            master=master,
            export=lambda: write("kinds-export", made(), coding.with_options(**{key: value})),
        )

    for name, coding in side.sdr.items():
        yield trial(
            f"rough {name}", partial(best_sdr, picture), partial(sdr_planes, picture), coding
        )
    for name, coding in side.hdr.items():
        master = partial(best_hdr, picture)
        yield trial(f"rough HDR {name}", master, lambda: hdr_coded(hdr_light(picture)), coding)


def with_bits(planes: Sequence[Planes], bits: int, *, of: int = 10) -> list[Planes]:
    """Return planes cut to so many bits of `of`."""
    drop = of - bits
    return [tuple((p >> drop) << drop for p in item) for item in planes]


def depths(picture: str, side: Side) -> Iterator[Trial]:
    """Kind 9: how many bits are left."""
    for bits in (7, 8):
        for name, coding in (("ffv1", replace(LOSSLESS, pix_fmt="yuv420p10le")), *side.hdr.items()):
            lossless = name == "ffv1"
            yield Trial(
                name=f"{bits} of 10 {name}",
                causes=_named("depth-reduced") if lossless else frozenset(),
                may=_named("light-level-missing", "tag-missing")
                if lossless
                else _named("depth-reduced"),
                master=partial(best_hdr, picture),
                export=lambda bits=bits, coding=coding, lossless=lossless: write(
                    "kinds-export",
                    with_bits(hdr_coded(hdr_light(picture)), bits),
                    replace(coding, colour=(9, 16, 9, 1)) if lossless else coding,
                ),
                value=lambda v, bits=bits: v.get("bits") == bits,
            )


MEZZANINE = {
    "prores": Coding(
        codec="prores_ks",
        options=(("profile", "3"),),
        pix_fmt="yuv422p10le",
        ending=".mov",
    ),
    "vc3": Coding(
        codec="dnxhd",
        options=(("profile", "dnxhr_hqx"),),
        pix_fmt="yuv422p10le",
        ending=".mov",
    ),
}


def healthy(picture: str, side: Side) -> Iterator[Trial]:
    """Healthy exports: exit status 0."""
    rich = partial(rich_master, picture)
    for name, coding in side.sdr.items():
        for crf in ("14", "20", "26"):
            for kind, master in (("8", partial(best_sdr, picture)), ("4:2:2 10", rich)):
                yield Trial(
                    name=f"SDR {crf} from {kind} {name}",
                    causes=frozenset(),
                    master=master,
                    export=lambda coding=coding, crf=crf: write(
                        "kinds-export", sdr_planes(picture), coding.with_options(crf=crf)
                    ),
                    overall="kept",
                )
    for name, coding in side.hdr.items():
        for crf in ("14", "20", "26"):
            yield Trial(
                name=f"HDR {crf} {name}",
                causes=frozenset(),
                master=partial(best_hdr, picture),
                export=lambda coding=coding, crf=crf: hdr_file(
                    "kinds-export", hdr_light(picture), coding.with_options(crf=crf)
                ),
                overall="kept",
            )
    for name, coding in MEZZANINE.items():
        yield Trial(
            name=f"SDR {name}",
            causes=frozenset(),
            master=rich,
            export=lambda coding=coding: write("kinds-export", rich_planes(picture), coding),
            overall="kept",
        )


def rich_planes(picture: str) -> list[Planes]:
    frames = photo_frames(picture, SIZE, COUNT)
    return [coded(f, matrix=1, depth=10, chroma="4:2:2") for f in frames]


def rich_master(picture: str) -> Path:
    coding = replace(SDR.with_options(crf="4"), pix_fmt="yuv422p10le", ending=".mov")
    return write(f"kinds-rich-{picture}", rich_planes(picture), coding)


KINDS: dict[str, tuple[str, Callable[..., Iterator[Trial]]]] = {
    "folds": ("pictures", folds),
    "promised": ("pictures", promised_folds),
    "ranges": ("pictures", ranges),
    "cuts": ("pictures", cuts),
    "rolls": ("pictures", rolls),
    "covers": ("pictures", covers),
    "spheres": ("spheres", sphere_trials),
    "eyes": ("eyes", eyes_trials),
    "together": ("pictures", together),
    "rough": ("pictures", rough),
    "depths": ("pictures", depths),
    "healthy": ("pictures", healthy),
}


@dataclass(frozen=True)
class Outcome:
    """How one trial ended. told: why it is not right, empty where it is."""

    kind: str
    healthy: bool
    named: bool
    false: tuple[str, ...]
    kept: bool | None
    told: str


def outcome(kind: str, trial: Trial) -> Outcome:
    try:
        survival = compare_files(trial.master(), trial.export(), overrides=trial.promise,
                                 workers=1, frames=8).survival  # fmt: skip
    except CoreError as fault:
        return Outcome(kind, not trial.causes, not trial.causes, (), None, f"{fault.code}")
    names = {cause.id: dict(cause.values) for cause in survival.causes}
    false = tuple(sorted(set(names) - trial.causes - trial.may))
    missing = sorted(trial.causes - set(names))
    verdicts = {v.trait: v.verdict for v in survival.verdicts}
    told = []
    if missing or false:
        told.append(f"{list(names)}")
    if trial.value and names:
        wanted = trial.causes or trial.may
        values = next((v for n, v in names.items() if n in wanted), None)
        if values is not None and not trial.value(values):
            told.append(f"value {values}")
    kept = None
    if trial.overall:
        kept = survival.overall == trial.overall
        if not kept:
            told.append(str({t: v for t, v in verdicts.items() if v != "kept"}))
    if trial.lost and not any(verdicts.get(t) in ("lost", "bent") for t in trial.lost.split()):
        told.append("not lost: " + str({t: verdicts.get(t) for t in trial.lost.split()}))
    return Outcome(kind, not trial.causes, not missing, false, kept, "; ".join(told))


def judged(job: tuple[str, str, object]) -> list[tuple[str, Outcome]]:
    """Return the outcomes of a kind on one picture."""
    side_name, kind, picture = job
    trials = KINDS[kind][1](picture, SIDES[side_name])
    return [(trial.name, outcome(kind, trial)) for trial in trials]


def main(words: Sequence[str]) -> None:
    """Print what went wrong, then the table."""
    side_name = next((word for word in words if word in SIDES), "tuned")
    side, started = SIDES[side_name], monotonic()
    only = [word for word in words if word in KINDS] or list(KINDS)
    jobs = [(side_name, k, p) for k in only for p in getattr(side, KINDS[k][0])]
    table: dict[str, Counter] = defaultdict(Counter)
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        for job, outcomes in zip(jobs, pool.map(judged, jobs), strict=True):
            for name, one in outcomes:
                row = table[one.kind]
                row["done"] += 1
                row["named"] += one.named and not one.healthy
                row["acts"] += not one.healthy
                row["false"] += bool(one.false)
                row["kept"] += bool(one.kept)
                row["to keep"] += one.kept is not None
                row["right"] += not one.told
                if one.told:
                    print(f"  {job[1]} {job[2]}: {name}: {one.told}", flush=True)
    print(f"{side_name}, {monotonic() - started:.0f} s")
    print("| kind | trials | right in all | acts | named | with a false cause | healthy kept |")
    print("| --- | --- | --- | --- | --- | --- | --- |")
    total: Counter = sum(table.values(), Counter())
    for kind, row in (*table.items(), ("together", total)):
        print(f"| {kind} | {row['done']} | {row['right']} | {row['acts']} | {row['named']} | "
              f"{row['false']} | {row['kept']} of {row['to keep']} |")  # fmt: skip


if __name__ == "__main__":
    main(sys.argv[1:])
