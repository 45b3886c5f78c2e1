"""How long comparing a 10 s 1920×1080 pair takes, against decoding both files once.

Ratios within one run; run it on an idle machine. Usage: python -m benchmarks.compare
"""

import tempfile
import time
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av

from shapkeen.core.judged import compare_files
from shapkeen.demo.coding import Planes, encode, planes_from_signal, pq_signal
from shapkeen.demo.features import HDR
from shapkeen.demo.scene import render

FRAMES, SIZE = 240, (1920, 1080)


def pictures() -> Iterator[Planes]:
    """Yield ten seconds of moving pictures; a loop of 24 drawn ones, for drawing is slow."""
    shape = SIZE[0] / SIZE[1]
    drawn = [
        planes_from_signal(
            pq_signal(render(*SIZE, aspect=shape, moment=i / 24, peak_nits=900.0)),
            matrix=9,
            depth=10,
        )
        for i in range(24)
    ]
    for number in range(FRAMES):
        yield drawn[number % 24]


def decode(path: Path) -> float:
    """Return the CPU seconds that decoding a file takes."""
    started = time.process_time()
    with av.open(str(path)) as container:
        container.streams.video[0].thread_type = "AUTO"
        for _ in container.decode(video=0):
            pass
    return time.process_time() - started


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        master, export = Path(folder) / "master.mov", Path(folder) / "export.mp4"
        encode(
            master, pictures(), replace(HDR, options={**HDR.options, "crf": "8"}, rate=Fraction(24))
        )
        encode(export, pictures(), HDR)
        compare_files(master, export, frames=2, workers=1)  # loops compiled, tables built
        decoding = decode(master) + decode(export)
        wall, cpu = time.monotonic(), time.process_time()
        made = compare_files(master, export, workers=1)  # children's CPU time would not count
        wall, cpu = time.monotonic() - wall, time.process_time() - cpu
        print(
            f"compare, 10 s of 1920×1080 10-bit H.265, {len(made.survey.pairs)} pairs: "
            f"{wall:.1f} s wall, {cpu:.1f} s CPU"
        )
        print(f"CPU of compare ÷ CPU of decoding both once: {cpu / decoding:.2f}")


if __name__ == "__main__":
    main()
