"""What looking for spheres and for two eyes adds to the survey of a 3840×2160 pair.

One pair of files, a sphere with two eyes beside each other by promise, compared without looking at
moments and with both measured at every one. Ratios within one run; run it on an idle machine.
Usage: python -m benchmarks.round [seconds]
"""

import json
import sys
import tempfile
import time
from pathlib import Path
from unittest.mock import patch

import numpy as np

from benchmarks.clips import RATE, looped, make
from shapkeen.core.compared import compare_files
from shapkeen.core.promised import promise_from_json
from shapkeen.demo.coding import Planes

LOOP_S = 2
TRAITS = {"projection": {"value": "equirectangular"}, "stereo": {"value": "left-right"}}
ROUND = {"schema": "shapkeen.promise/1", "traits": TRAITS}
WATCHED = "shapkeen.core.measured.passes.plan_view_sampling"
GOAL = 0.25


def two_eyes(planes: Planes) -> Planes:
    """Return each picture twice beside itself, the second one a little to the right."""
    made = []
    for plane in planes:
        eye = plane[:, ::2]
        made.append(np.concatenate([eye, np.roll(eye, eye.shape[1] // 80, axis=1)], axis=1))
    return made[0], made[1], made[2]


def spent(master: Path, export: Path) -> tuple[float, int]:
    """Return the CPU seconds of a comparison, and how many moments were looked at."""
    promise = promise_from_json(json.dumps(ROUND), origin="benchmark")
    started = time.process_time()
    made = compare_files(master, export, overrides=promise, workers=1)
    eyes = made.survey.eyes
    return time.process_time() - started, len(eyes.moments) if eyes else 0


def main() -> None:
    seconds = int(sys.argv[1]) if len(sys.argv) > 1 else 8
    with tempfile.TemporaryDirectory() as folder:
        files = []
        for name, mbps, grain in (("master", 100, 5.0), ("export", 14, 3.0)):
            short, path = Path(folder) / f"{name}-loop.mp4", Path(folder) / f"{name}.mp4"
            make(short, mbps=mbps, count=LOOP_S * RATE, grain=grain, change=two_eyes)
            looped(short, seconds // LOOP_S, path)
            files.append(path)
        spent(*files)  # compiles what is compiled
        with patch(WATCHED, return_value=None):
            flat, _ = spent(*files)
        whole, moments = spent(*files)
    print(f"{seconds} s of 3840×2160: {flat:.1f} s CPU without moments, {whole:.1f} s with")
    print(
        f"{moments} moments, {(whole - flat) / max(moments, 1) * 1000:.0f} ms each and the search"
    )
    print(f"added: {(whole - flat) / flat:.3f} of the survey (goal at most {GOAL})")


if __name__ == "__main__":
    main()
