"""Acts on sound, named rightly how often, and healthy exports that show a cause.

Usage: python -m tests.sounds [SIDE]. Sides: tuned (invented signals that limits were set by), aside
(music and voices that Debian's packages bring: frozen-bubble-data, supertux-data, alsa-utils; what
is not installed is left out).
"""

import sys
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path

import av
import numpy as np

from shapkeen.core.compared import judge_survey, survey_files
from shapkeen.core.declared import Declaration, read_declaration
from shapkeen.core.measured import PairSurvey
from shapkeen.core.measured.sound.finding import PictureClock
from shapkeen.core.measured.sound.pair import find_sound
from shapkeen.demo.ticking import ticking
from tests.builders import media
from tests.builders.sounding import RATE, speech, with_sound

SECONDS = 9
FOLDERS = (
    ("/usr/share/games/frozen-bubble/snd", "*.ogg"),
    ("/usr/share/games/supertux2/music", "**/*.ogg"),
    ("/usr/share/sounds/alsa", "*.wav"),
)
LEAST_S, MOST = 9, 7
"""Seconds that a signal must last; signals of each folder."""
SIDES = {"aside": 0, "fresh": 3, "unseen": 5}
"""Sides of pieces that others leave out: those that limits were mended by are no longer unseen."""
STILL = PictureClock(1.0, ((0.0, 0.0),))
Wave = np.ndarray
HEALTHY: Mapping[str, dict[str, object]] = {
    "aac 128": {},
    "aac 64": {"kbps": 64},
    "opus 96": {"codec": "opus", "wrapper": "mkv", "kbps": 96},
    "mp3 128": {"codec": "mp3", "wrapper": "mkv", "kbps": 128},
    "aac in flv": {"wrapper": "flv"},
    "aac in ts": {"wrapper": "ts"},
}


def _late(wave: Wave, seconds: float) -> Wave:
    count = round(abs(seconds) * RATE)
    pad = np.zeros((2, count), np.float32)
    return np.concatenate([pad, wave], axis=1) if seconds > 0 else wave[:, count:]


def _drifting(wave: Wave) -> Wave:
    own = np.arange(wave.shape[1])
    return np.stack([np.interp(own * 25 / 24, own, line) for line in wave])


def _hole(wave: Wave) -> Wave:
    made = wave.copy()
    made[:, 4 * RATE : round(5.5 * RATE)] = 0
    return made


def _cut_off(wave: Wave) -> Wave:
    return np.clip(wave * (2.2 / np.abs(wave).max()), -1, 1)


ACTS: Mapping[str, tuple[str, Callable[[Wave], Wave | None], dict[str, object]]] = {
    "late": ("sound-shifted", lambda w: _late(w, 0.12), {}),
    "early": ("sound-shifted", lambda w: _late(w, -0.2), {}),
    "drifting": ("sound-drifts", _drifting, {}),
    "exchanged": ("channels-swapped", lambda w: w[::-1], {}),
    "upside down": ("channel-inverted", lambda w: w * np.array([[1], [-1]]), {}),
    "left twice": ("channels-folded", lambda w: w[[0, 0]], {}),
    "to one": ("channels-folded", lambda w: w.mean(0, keepdims=True), {"layout": "mono"}),
    "quieter": ("loudness-changed", lambda w: w * 0.6, {}),
    "cut off": ("sound-clipped", _cut_off, {}),
    "hole": ("sound-cut", _hole, {}),
    "ends early": ("sound-cut", lambda w: w[:, : 6 * RATE], {}),
    "resampled": ("sound-resampled", lambda w: w, {"rate": 32_000}),
    "silent": ("sound-silent", lambda w: w * 0, {}),
    "none": ("sound-missing", lambda _: None, {}),
    "another": ("sound-foreign", lambda w: speech(SECONDS, seed=77) * np.abs(w).max() * 2, {}),
    "late, quieter": ("sound-shifted loudness-changed", lambda w: _late(w, 0.15) * 0.6, {}),
    "late, exchanged": ("sound-shifted channels-swapped", lambda w: _late(w, 0.15)[::-1], {}),
}
"""Act → the causes that it should have, what does it, and how it is coded."""
ALIKE = frozenset({"exchanged", "upside down", "left twice", "late, exchanged"})
"""Acts that two equal channels cannot show."""


def signals(side: str) -> Iterator[tuple[str, Wave]]:
    """Yield named signals of two channels, their peaks at half of full scale."""
    if side == "tuned":
        yield "bursts", speech(SECONDS)
        yield "ticks", ticking(SECONDS)
        return
    for folder, pattern in FOLDERS:
        found = ((path.stem, _decoded(path)) for path in sorted(Path(folder).glob(pattern)))
        long = [(name, wave) for name, wave in found if wave is not None]
        step = -(-len(long) // MOST) or 1
        yield from long[SIDES[side] % step :: step]


def _decoded(path: Path) -> Wave | None:
    """Return the beginning of a file as two channels; None where it is too short."""
    with av.open(str(path)) as container:
        resampler = av.AudioResampler(format="fltp", layout="stereo", rate=RATE)
        parts, count = [], 0
        for frame in container.decode(audio=0):
            for piece in resampler.resample(frame):
                parts.append(piece.to_ndarray())
                count += parts[-1].shape[1]
            if count >= SECONDS * RATE:
                break
    if count < LEAST_S * RATE:
        return None
    wave = np.concatenate(parts, axis=1)[:, : SECONDS * RATE]
    peak = float(np.abs(wave).max())
    return (wave * (0.5 / peak)).astype(np.float32) if peak > 0 else None


@dataclass(frozen=True)
class Trials:
    """One signal as a master's sound, over a picture that is always the same."""

    picture: Path
    survey: PairSurvey
    master: Path
    declared: Declaration

    def causes(self, made: Wave | None, **coded: object) -> list[str]:
        export = with_sound("sounds-export", made, picture=self.picture, **coded)
        found = replace(self.survey, sound=find_sound(self.master, export, STILL))
        survival = judge_survey(self.declared, read_declaration(export), found).survival
        return sorted(cause.id for cause in survival.causes if cause.id != "index-last")


def is_nearly_one(wave: Wave) -> bool:
    """Return whether two channels differ by less than a twentieth of their power."""
    apart = float(np.mean((wave[0] - wave[1]) ** 2))
    return apart < 0.05 * float(np.mean(wave[0] ** 2) + np.mean(wave[1] ** 2))


def try_signal(name: str, wave: Wave, trials: Trials, told: Counter[str]) -> None:
    for kind, coded in HEALTHY.items():
        found = trials.causes(wave, **coded)
        told["healthy"] += 1
        if found:
            told["false alarms"] += 1
            print(f"{name}, {kind}: {found}", flush=True)
    for act, (wanted, change, coded) in ACTS.items():
        if act in ALIKE and is_nearly_one(wave):
            continue
        found = trials.causes(change(wave), **coded)
        told["acts"] += 1
        if found == sorted(wanted.split()):
            told["named rightly"] += 1
        else:
            told["missed"] += not found
            print(f"{name}, {act}: {found}", flush=True)


def main() -> None:
    """Try every act on every signal, and tell what was named otherwise."""
    side = sys.argv[1] if len(sys.argv) > 1 else "tuned"
    frames = media.photo_frames("coffee", (160, 96), SECONDS * 24)
    planes = [media.coded(frame, matrix=1, depth=8) for frame in frames]
    picture = media.write("sounds-picture", planes, media.SDR.with_options(crf="12"))
    survey = survey_files(picture, picture, frames=4, workers=1).survey
    told: Counter[str] = Counter()
    for name, wave in signals(side):
        master = with_sound("sounds-master", wave, codec="pcm", wrapper="mov", picture=picture)
        trials = Trials(picture, survey, master, read_declaration(master))
        try_signal(name, wave, trials, told)
    print(side, dict(told))


if __name__ == "__main__":
    main()
