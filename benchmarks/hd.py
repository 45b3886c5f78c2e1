"""Where the CPU time of a 1920×1080 pair goes, a pair of frames, beyond decoding.

Moving pictures with grain, 8-bit H.264 and 10-bit H.265, surveyed in one process under a profiler;
a short film against a longer one, so that what every film takes once stands beside. The goal is 8
ms a megapixel beyond decoding. Usage: python -m benchmarks.hd
"""

import cProfile
import pstats
import tempfile
from pathlib import Path

import numpy as np

from benchmarks.clips import looped
from benchmarks.compare import decode
from benchmarks.decoding import timed
from shapkeen.core.compared import compare_files
from shapkeen.demo.coding import Planes
from tests.builders.media import HDR, SDR, Coding, coded, photo_frames, write

SIZE, RATE = (1920, 1080), 24
LOOP, TIMES = 72, (2, 6)
"""Frames that are encoded, and how often each film shows them."""
ROUNDS = 3
PARTS = {
    "counting every sample": ("counter.py", "add"),
    "extremes of lines": ("bars.py", "add"),
    "made small": ("signature.py", "small_picture"),
    "signatures": ("signature.py", "signature_of"),
    "likeness of every pair": ("likeness.py", "likeness"),
    "pairs compared closely": ("worker.py", "look_closely"),
    "where both meet": ("initial.py", "find_initial_alignment"),
    "told from it": ("pair.py", "_survey_of"),
}
CODINGS = {
    "H.264, 8 bits": (SDR.with_options(preset="veryfast"), 8),
    "H.265, 10 bits": (HDR.with_options(preset="veryfast"), 10),
}


def pictures(count: int, depth: int) -> list[Planes]:
    """Return moving photographs with grain."""
    chance = np.random.default_rng(3)
    made = []
    for frame in photo_frames("rocket", SIZE, count):
        noisy = np.clip(frame + chance.normal(0, 0.012, frame.shape), 0, 1).astype(np.float32)
        made.append(coded(noisy, matrix=9 if depth == 10 else 1, depth=depth))
    return made


def measure(name: str, coding: Coding, depth: int, folder: Path) -> None:
    """Print the table of one coding: what a pair more takes of a film, and what stays the same."""
    planes = pictures(LOOP, depth)
    films: dict[int, list[Path]] = {times: [] for times in TIMES}
    for side, crf in (("master", "16"), ("export", "22")):
        short = write(f"hd-{side}-{depth}", planes, coding.with_options(crf=crf))
        rate = short.stat().st_size * 8 / LOOP * RATE / 1e6
        print(f"{name}, {side}: {rate:.0f} Mb/s")
        for times, files in films.items():
            files.append(folder / f"{side}-{depth}-{times}.mp4")
            looped(short, times, files[-1])
    compare_files(*films[TIMES[0]], workers=1)  # compiled and cached
    few, many = (taken(*files) for files in films.values())
    pairs = (TIMES[1] - TIMES[0]) * LOOP
    each = {part: (many[part] - few[part]) / pairs for part in few}
    print(f"| {name} | ms a pair more | s beside, however long |\n| --- | --- | --- |")
    for part, seconds in each.items():
        beside = few[part] - seconds * TIMES[0] * LOOP
        print(f"| {part} | {seconds * 1000:.1f} | {beside:.2f} |")
    megapixels = SIZE[0] * SIZE[1] / 1e6
    within = each["all but decoding"] / megapixels * 1000
    beyond = (each["all"] - each["decoding both, alone"]) / megapixels * 1000
    print(f"beyond decoding, a megapixel: {within:.1f} ms of its own, {beyond:.1f} ms with what ")
    print("decoding is slower by than alone (goal 8)", flush=True)


def taken(*files: Path) -> dict[str, float]:
    """Return the CPU seconds of decoding, of PARTS and of all of a comparison.

    The least of some rounds each: whatever else the machine does only adds.
    """
    least: dict[str, float] = {}
    for _ in range(ROUNDS):
        alone = sum(decode(path) for path in files)
        with timed() as clock:
            compare_files(*files, workers=1)
        profile = cProfile.Profile()
        profile.enable()
        compare_files(*files, workers=1)
        profile.disable()
        found = {"decoding both, alone": alone, **parts_of(profile)}
        found |= {"all but decoding": clock.beyond, "all": clock.whole}
        least = {part: min(seconds, least.get(part, seconds)) for part, seconds in found.items()}
    return least


def parts_of(profile: cProfile.Profile) -> dict[str, float]:
    """Return the seconds of PARTS, with all that they call."""
    found = dict.fromkeys(PARTS, 0.0)
    stats = pstats.Stats(profile).stats  # type: ignore[attr-defined]
    for (file, _line, name), (_calls, _all, _own, cumulated, _callers) in stats.items():
        for part, (ending, function) in PARTS.items():
            if name == function and file.endswith("/" + ending) and "/core/" in file:
                found[part] += cumulated
    return found


def main() -> None:
    """Print both tables."""
    with tempfile.TemporaryDirectory() as folder:
        for name, (coding, depth) in CODINGS.items():
            measure(name, coding, depth, Path(folder))


if __name__ == "__main__":
    main()
