"""The demo's files: two masters, and exports of which some were injured on the way.

Every injury is a real one, made in code values or in tags by the same acts that make it in a
finishing room. Names of receivers are invented.
"""

import time
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np

from .canvas import Real
from .coding import Codes, Planes, Recipe, encode, planes_from_signal, pq_signal, sdr_signal
from .scene import render

FRAMES = 36
RASTER = (1280, 720)
PEAK_NITS = 900.0
SQUEEZE = Fraction(4, 3)
X265 = (
    "log-level=error:hdr10=1:repeat-headers=1:colorprim=bt2020:transfer=smpte2084:"
    "colormatrix=bt2020nc:range=limited"
)
# P3-D65 primaries, 1000 cd/m² peak, 0.005 cd/m² black.
MASTERED_ON = (
    ":master-display=G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)"
)
HDR = Recipe(
    codec="libx265",
    options={
        "preset": "ultrafast",
        "crf": "16",
        "x265-params": f"{X265}{MASTERED_ON}:max-cll=900,20",
    },
    colour=(9, 16, 9, 1),
)
SDR = Recipe(
    codec="libx264",
    options={"preset": "veryfast", "crf": "16"},
    colour=(1, 1, 1, 1),
    pixel_aspect=SQUEEZE,
    depth=8,
)

Change = Callable[[Planes], Planes]


@dataclass(frozen=True, kw_only=True)
class Export:
    """One export of the demo: for whom, which attempt, how it was coded, what happened to it."""

    delivery: str
    file: str
    recipe: Recipe
    change: Change | None = None


@dataclass(frozen=True, kw_only=True)
class Feature:
    """One title of the demo with its master and exports."""

    name: str
    note: str
    master: str
    recipe: Recipe
    hdr: bool
    exports: tuple[Export, ...]


def _options(recipe: Recipe, **options: str) -> Recipe:
    return replace(recipe, options={**recipe.options, **options})


def _on_luma_and_chroma(
    luma: Callable[[Real], Real], chroma: Callable[[Real], Real] | None, top: int
) -> Change:
    """Return a change of code values, rounded and kept within the depth."""

    def change(planes: Planes) -> Planes:
        chroma_of = chroma or (lambda codes: codes)
        changed: list[Real] = [luma(planes[0].astype(np.float64))]
        changed += [chroma_of(plane.astype(np.float64)) for plane in planes[1:]]
        y, cb, cr = (np.clip(np.floor(p + 0.5), 0, top).astype(np.uint16) for p in changed)
        return y, cb, cr

    return change


SQUEEZED_RANGE = _on_luma_and_chroma(
    lambda y: 64 + y * 876 / 1023, lambda c: 512 + (c - 512) * 896 / 1023, 1023
)
DARKER = _on_luma_and_chroma(
    lambda y: 64 + 876 * np.clip((y - 64) / 876, 0, 1.1) ** 1.2, None, 1023
)
EIGHT_BIT_LEVELS = _on_luma_and_chroma(lambda y: 4 * np.floor(y / 4 + 0.5), None, 1023)


def _resized(plane: Codes, width: int, height: int) -> Codes:
    way = cv2.INTER_AREA if height < plane.shape[0] else cv2.INTER_CUBIC
    drawn = cv2.resize(plane.astype(np.float32), (width, height), interpolation=way)
    return np.asarray(np.clip(np.floor(drawn + 0.5), 0, 255), dtype=np.uint16)


def widened(planes: Planes) -> Planes:
    """Return the picture resampled to square samples."""
    height, width = planes[0].shape
    wide = round(width * float(SQUEEZE)) // 4 * 4
    y, cb, cr = (
        _resized(plane, w, h)
        for plane, w, h in zip(
            planes, (wide, wide // 2, wide // 2), (height, height // 2, height // 2), strict=True
        )
    )
    return y, cb, cr


def fitted_with_bars(planes: Planes) -> Planes:
    """Return the picture in square samples inside its old raster, with black bars."""
    blacks = (16, 128, 128)
    drawn = []
    for plane, black in zip(planes, blacks, strict=True):
        height, width = plane.shape
        high = round(height / float(SQUEEZE)) // 4 * 4
        top = (height - high) // 2
        canvas = np.full_like(plane, black)
        canvas[top : top + high] = _resized(plane, width, high)
        drawn.append(canvas)
    return drawn[0], drawn[1], drawn[2]


FEATURES = (
    Feature(
        name="The Orrery Keeper",
        note="Documentary, HDR master: PQ, BT.2020, mastered at 1000 cd/m² on P3",
        master="orrery-keeper-hdr-master.mov",
        recipe=_options(HDR, crf="6"),
        hdr=True,
        exports=(
            Export(
                delivery="Harbourlight Premiere",
                file="orrery-harbourlight-v1.mp4",
                # The wrapper calls the picture BT.709 while the stream says PQ.
                recipe=replace(HDR, colour=(9, 1, 9, 1)),
            ),
            Export(delivery="Harbourlight Premiere", file="orrery-harbourlight-v2.mp4", recipe=HDR),
            Export(
                delivery="Quayside Stream",
                file="orrery-quayside.mp4",
                recipe=HDR,
                change=SQUEEZED_RANGE,
            ),
            Export(
                delivery="Lantern Archive",
                file="orrery-lantern.mp4",
                recipe=replace(
                    _options(HDR, **{"x265-params": f"{X265}{MASTERED_ON}"}), index_first=False
                ),
            ),
            Export(
                delivery="Tidewater Club",
                file="orrery-tidewater.mp4",
                recipe=HDR,
                change=DARKER,
            ),
            Export(
                delivery="Saltmarsh Mobile",
                file="orrery-saltmarsh.mp4",
                recipe=_options(HDR, crf="10"),
                change=EIGHT_BIT_LEVELS,
            ),
        ),
    ),
    Feature(
        name="The Orrery Keeper: scope trailer",
        note="Trailer, SDR master: BT.709, anamorphic, stored 1280×720 with a pixel aspect of 4:3",
        master="orrery-trailer-scope-master.mov",
        recipe=_options(SDR, crf="6"),
        hdr=False,
        exports=(
            Export(delivery="Gannet Screens", file="trailer-gannet.mp4", recipe=SDR),
            Export(
                delivery="Saltmarsh Mobile",
                file="trailer-saltmarsh.mp4",
                recipe=replace(SDR, pixel_aspect=Fraction(1)),
            ),
            Export(
                delivery="Breakwater Stream",
                file="trailer-breakwater.mp4",
                recipe=SDR,
                change=widened,
            ),
            Export(
                delivery="Foghorn Shorts",
                file="trailer-foghorn.mp4",
                recipe=replace(SDR, pixel_aspect=Fraction(1), rate=Fraction(25)),
                change=fitted_with_bars,
            ),
        ),
    ),
)


def _draw(task: tuple[bool, int]) -> Planes:
    """Return one frame's planes; runs in a process of its own."""
    hdr, number = task
    width, height = RASTER
    shape = width / height * (1.0 if hdr else float(SQUEEZE))
    light = render(width, height, aspect=shape, moment=number / FRAMES, peak_nits=PEAK_NITS)
    if hdr:
        return planes_from_signal(pq_signal(light), matrix=9, depth=10)
    return planes_from_signal(sdr_signal(light), matrix=1, depth=8)


def _encode_job(job: tuple[Path, Sequence[Planes], Recipe, Change | None]) -> str:
    path, frames, recipe, change = job
    changed: Iterable[Planes] = frames if change is None else (change(item) for item in frames)
    encode(path, changed, recipe)
    return path.name


def make_footage(folder: Path, say: Callable[[str], None]) -> None:
    """Render and encode what is not there yet; `say` is told of each step."""
    folder.mkdir(parents=True, exist_ok=True)
    with ProcessPoolExecutor(2) as pool:
        for feature in FEATURES:
            files = [feature.master, *(export.file for export in feature.exports)]
            if all((folder / name).exists() for name in files):
                continue
            started = time.monotonic()
            frames = []
            tasks = [(feature.hdr, number) for number in range(FRAMES)]
            for done, planes in enumerate(pool.map(_draw, tasks, chunksize=2), start=1):
                frames.append(planes)
                if done % 12 == 0:
                    say(f"{feature.name}: {done} of {FRAMES} frames drawn")
            _encode_all(folder, feature, frames, say)
            say(f"{feature.name}: drawn and encoded in {time.monotonic() - started:.0f} s")


def _encode_all(
    folder: Path, feature: Feature, frames: Sequence[Planes], say: Callable[[str], None]
) -> None:
    _encode_job((folder / feature.master, frames, feature.recipe, None))
    for number, export in enumerate(feature.exports, start=1):
        _encode_job((folder / export.file, frames, export.recipe, export.change))
        say(f"{feature.name}: export {number} of {len(feature.exports)} encoded")
