"""What counting every sample of every frame costs, against decoding alone, in one run.

Moving 3840×2160 10-bit H.265 pictures at about 14 and about 100 Mb/s are made, then: CPU time of
the whole survey of one file (light, gamut, range, depth, colours) ÷ CPU time of decoding; wall
time with one and with two processes; peak memory by length; and a still from a click to a
picture. Run it on an idle machine with two free cores. Usage: python -m benchmarks.survey
"""

import resource
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from contextlib import nullcontext
from dataclasses import dataclass
from itertools import pairwise
from multiprocessing import get_context
from pathlib import Path

from benchmarks.clips import RATE, READING, make
from benchmarks.decoding import timed
from shapkeen.core.measured import Source
from shapkeen.core.measured.frame_statistics.engine import count_file, count_span
from shapkeen.core.measured.spans.cutting import Span, read_span
from shapkeen.core.rehearsed.stills import render_still

OPEN = Span(None, None)


@dataclass(frozen=True)
class _Begun:
    """A pool that runs already."""

    pool: ProcessPoolExecutor
    shares_disk, at_once = True, 4

    def __call__(self) -> nullcontext[ProcessPoolExecutor]:
        return nullcontext(self.pool)


def wall_of(path: Path, workers: int, spans: list[Span]) -> float:
    with ProcessPoolExecutor(workers, mp_context=get_context("spawn")) as pool:
        # started and warm before the clock runs, as in the middle of a long film
        list(pool.map(count_span, [Source(path, READING)] * workers, [Span(None, 1)] * workers))
        started = time.monotonic()
        count_file(Source(path, READING), pool=_Begun(pool), spans=spans)
        return time.monotonic() - started


def main() -> None:
    seconds = int(sys.argv[1]) if len(sys.argv) > 1 else 4
    with tempfile.TemporaryDirectory() as folder:
        for goal, grain in ((14, 3.0), (100, 5.0)):
            path = Path(folder) / f"{goal}.mp4"
            rate = make(path, mbps=goal, count=seconds * RATE, grain=grain)
            source = Source(path, READING)
            count_span(source, Span(None, 1))  # compiled and cached
            ratios = []
            for _ in range(3):
                with timed() as clock:
                    count_span(source, OPEN, 1)
                ratios.append(clock.ratio)
            print(
                f"{rate:5.1f} Mb/s: CPU of the survey ÷ CPU of decoding: "
                f"{sorted(ratios)[1]:.2f} ({', '.join(f'{r:.2f}' for r in sorted(ratios))}); "
                f"decoding {clock.decoding / seconds / RATE * 1000:.0f} ms a frame"
            )
        keys = [t for t, picture in read_span(path, OPEN) if picture.key_frame]
        edges = [None, *keys[1:], None]
        spans = [Span(a, b) for a, b in pairwise(edges)]
        one, two = wall_of(path, 1, spans), wall_of(path, 2, spans)
        print(f"wall time of one process ÷ of two: {one / two:.2f} ({one:.1f} s, {two:.1f} s)")
        started = time.monotonic()
        render_still(
            source, seconds * RATE // 2 + 7, display="toned", aspect=(1, 1), most=(1600, 900)
        )
        print(f"a still out of the middle of a group: {time.monotonic() - started:.2f} s")
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
        print(f"peak memory of this process, encoder included: {peak:.0f} MB")


if __name__ == "__main__":
    main()
