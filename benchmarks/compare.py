"""What a whole comparison of a 3840×2160 pair costs, against decoding both files once.

Ratios within one run; run it on an idle machine. Usage: python -m benchmarks.compare [seconds]
"""

import resource
import sys
import tempfile
import time
from pathlib import Path

from benchmarks.clips import RATE, looped, make
from benchmarks.decoding import timed
from shapkeen.core.compared import compare_files
from shapkeen.core.measured.spans.cutting import Span, read_span

LOOP_S = 4


def decode(path: Path) -> float:
    """Return the CPU seconds that decoding a file takes."""
    started = time.process_time()
    for _ in read_span(path, Span(None, None), threads=1):
        pass
    return time.process_time() - started


def main() -> None:
    seconds = int(sys.argv[1]) if len(sys.argv) > 1 else 24
    with tempfile.TemporaryDirectory() as folder:
        files = []
        for name, mbps, grain in (("master", 100, 5.0), ("export", 14, 3.0)):
            short, path = Path(folder) / f"{name}-loop.mp4", Path(folder) / f"{name}.mp4"
            rate = make(short, mbps=mbps, count=LOOP_S * RATE, grain=grain)
            looped(short, seconds // LOOP_S, path)
            print(f"{name}: {rate:.1f} Mb/s")
            files.append(path)
        master, export = files
        compare_files(*(Path(folder) / f"{n}-loop.mp4" for n in ("master", "export")), workers=1)
        wall = time.monotonic()
        with timed() as clock:
            made = compare_files(master, export, workers=1)  # children's time would not count
        wall, cpu, decoding = time.monotonic() - wall, clock.whole, clock.decoding
        frames = len(made.survey.series)
        print(
            f"compare, {seconds} s of 3840×2160 10-bit H.265, {len(made.survey.pairs)} pairs in "
            f"depth, {frames} in all: {wall:.1f} s wall, {cpu:.1f} s CPU"
        )
        print(f"CPU of compare ÷ CPU of decoding both once: {clock.ratio:.2f}")
        per = 1000 / (seconds * RATE)
        print(f"a pair of frames: {decoding * per:.0f} ms to decode, {cpu * per:.0f} ms in all")
        wall = time.monotonic()
        compare_files(master, export, workers=2)
        print(f"with two processes: {time.monotonic() - wall:.1f} s wall")
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(f"peak memory of this process, encoder included: {peak:.0f} MB")


if __name__ == "__main__":
    main()
