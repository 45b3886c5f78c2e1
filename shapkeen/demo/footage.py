"""Renders and encodes the demo's files."""

import time
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from functools import partial
from pathlib import Path

import numpy as np

from .canvas import Real
from .changes import CHANGES
from .coding import Planes, encode, hlg_signal, planes_from_signal, pq_signal, sdr_signal
from .features import FEATURES, Feature, files_of
from .gears import render_gears
from .room import render_room
from .scene import render
from .ticking import SOUND_CHANGES, Wave, ticking

PEAK_NITS = 900.0


def _draw(feature: Feature, number: int) -> Planes:
    """Return one frame's planes; runs in a process of its own."""
    width, height = feature.raster
    if feature.scene != "workshop":
        light = _light(feature, number / feature.frames)
        return planes_from_signal(sdr_signal(light), matrix=1, depth=8)
    shape = width / height * float(feature.recipe.pixel_aspect or 1)
    light = render(width, height, aspect=shape, moment=number / feature.frames, peak_nits=PEAK_NITS)
    if feature.light != "sdr":
        signal = pq_signal(light) if feature.light == "pq" else hlg_signal(light)
        return planes_from_signal(signal, matrix=9, depth=10)
    return planes_from_signal(sdr_signal(light), matrix=1, depth=8)


def _light(feature: Feature, moment: float) -> Real:
    """Return the linear light of a sphere, or of both eyes beside each other."""
    width, height = feature.raster
    if feature.scene == "room":
        return render_room(width, height, moment=moment)
    eye = width // 2
    both = [
        render_gears(eye, height, aspect=eye / height, moment=moment, eye=at, peak_nits=PEAK_NITS)
        for at in (0, 1)
    ]
    return np.concatenate(both, axis=1)


def make_footage(folder: Path, say: Callable[[str], None]) -> None:
    """Render and encode what is not there yet; `say` is told of each step."""
    folder.mkdir(parents=True, exist_ok=True)
    with ProcessPoolExecutor(2) as pool:
        for feature in FEATURES:
            if all((folder / name).exists() for name in files_of([feature])):
                continue
            started = time.monotonic()
            frames = []
            draw = partial(_draw, feature)
            for done, planes in enumerate(
                pool.map(draw, range(feature.frames), chunksize=2), start=1
            ):
                frames.append(planes)
                if done % 12 == 0:
                    say(f"{feature.name}: {done} of {feature.frames} frames drawn")
            _encode_all(folder, feature, frames, say)
            say(f"{feature.name}: drawn and encoded in {time.monotonic() - started:.0f} s")


def _encode_all(
    folder: Path, feature: Feature, frames: Sequence[Planes], say: Callable[[str], None]
) -> None:
    wave = ticking(len(frames) / float(feature.recipe.rate)) if feature.ticks else None
    encode(folder / feature.master, frames, feature.recipe, wave=wave)
    for number, export in enumerate(feature.exports, start=1):
        change = CHANGES.get(export.change)
        left = [item for n, item in enumerate(frames) if n not in export.without]
        changed = (change(item) for item in left) if change else iter(left)
        heard = _heard(wave, export.sound)
        encode(folder / export.file, changed, export.recipe, wave=heard)
        say(f"{feature.name}: export {number} of {len(feature.exports)} encoded")


def _heard(wave: Wave | None, sound: str) -> Wave | None:
    """Return what became of the sound on the way."""
    if wave is None or sound == "none":
        return None
    change = SOUND_CHANGES.get(sound)
    return change(wave) if change else wave
