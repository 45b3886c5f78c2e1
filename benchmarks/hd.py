"""Where the CPU time of a 1920×1080 pair goes, a pair of frames, beyond decoding.

Moving pictures with grain at about 20 Mb/s, 8-bit H.264 and 10-bit H.265, surveyed in one process
under a profiler. The goal is 8 ms a megapixel beyond decoding. Usage: python -m benchmarks.hd [S]
"""

import cProfile
import pstats
import sys
import time
from pathlib import Path

import numpy as np

from benchmarks.compare import decode
from shapkeen.core.compared import compare_files
from shapkeen.demo.coding import Planes
from tests.builders.media import HDR, SDR, Coding, coded, photo_frames, write

SIZE, RATE = (1920, 1080), 24
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


def measure(name: str, coding: Coding, depth: int, count: int) -> None:
    """Print the table of one coding."""
    planes = pictures(count, depth)
    files = []
    for side, crf in (("master", "16"), ("export", "22")):
        files.append(Path(write(f"hd-{side}-{depth}", planes, coding.with_options(crf=crf))))
        rate = files[-1].stat().st_size * 8 / count * RATE / 1e6
        print(f"{name}, {side}: {rate:.0f} Mb/s")
    compare_files(*files, workers=1)  # compiled and cached
    decoding = sum(decode(path) for path in files)
    started = time.process_time()
    compare_files(*files, workers=1)
    whole = time.process_time() - started
    profile = cProfile.Profile()
    profile.enable()
    compare_files(*files, workers=1)
    profile.disable()
    megapixels = count * SIZE[0] * SIZE[1] / 1e6
    print(f"| {name} | ms a pair of frames |\n| --- | --- |")
    print(f"| decoding both | {decoding / count * 1000:.1f} |")
    for part, seconds in parts_of(profile).items():
        print(f"| {part} | {seconds / count * 1000:.1f} |")
    print(f"| all | {whole / count * 1000:.1f} |")
    print(
        f"beyond decoding {(whole - decoding) / megapixels * 1000:.1f} ms a megapixel", flush=True
    )


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
    count = int(float(sys.argv[1]) * RATE) if len(sys.argv) > 1 else 120
    for name, (coding, depth) in CODINGS.items():
        measure(name, coding, depth, count)


if __name__ == "__main__":
    main()
