"""Generated clips for the benchmarks: moving 3840×2160 10-bit H.265, of any length."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from shapkeen.core.measured import Reading
from shapkeen.demo.coding import Planes, encode, planes_from_signal, pq_signal
from shapkeen.demo.recipes import HDR
from shapkeen.demo.scene import render

SIZE, RATE, GROUP = (3840, 2160), 24, 24
READING = Reading(
    full_range=False, transfer=16, matrix=9, rate=Fraction(RATE), frame_count=None, primaries=9
)


def pictures(count: int, grain: float, seed: int = 4) -> Iterator[Planes]:
    """Yield moving pictures: eight drawn ones there and back, with fresh grain on each."""
    shape = SIZE[0] / SIZE[1]
    drawn = [
        planes_from_signal(
            pq_signal(render(*SIZE, aspect=shape, moment=i / 8, peak_nits=900.0)),
            matrix=9,
            depth=10,
        )
        for i in range(8)
    ]
    chance = np.random.default_rng(seed)
    noise = [chance.normal(0, grain, (SIZE[1] + 64, SIZE[0] + 64)).astype(np.int16) for _ in "ab"]
    for number in range(count):
        y, cb, cr = drawn[7 - abs(7 - number % 14)]
        dy, dx = chance.integers(0, 64, 2)
        moved = noise[number % 2][dy : dy + SIZE[1], dx : dx + SIZE[0]]
        yield np.clip(y + moved, 64, 940).astype(np.uint16), cb, cr


def as_they_are(planes: Planes) -> Planes:
    """Return planes unchanged."""
    return planes


def make(
    path: Path,
    *,
    mbps: int,
    count: int,
    grain: float,
    group: int = GROUP,
    change: Callable[[Planes], Planes] = as_they_are,
) -> float:
    """Encode a clip and return the rate that came out, in Mb/s. group: pictures
    from one key picture to the next. change: of each picture's planes."""
    bits = f":bitrate={mbps * 1000}:vbv-maxrate={mbps * 1500}:vbv-bufsize={mbps * 2000}"
    params = HDR.options["x265-params"] + bits + f":keyint={group}:min-keyint={group}:open-gop=0"
    options = {"preset": "superfast", "x265-params": params}
    drawn = map(change, pictures(count, grain))
    encode(path, drawn, replace(HDR, options=options, rate=Fraction(RATE)))
    return path.stat().st_size * 8 / (count / RATE) / 1e6


def looped(path: Path, times: int, goal: Path) -> None:
    """Write the same pictures several times over, without coding them again."""
    with av.open(str(goal), "w") as written:
        with av.open(str(path)) as read:
            stream = written.add_stream_from_template(read.streams.video[0], opaque=True)
        length = 0
        for _ in range(times):
            with av.open(str(path)) as read:
                source, start, end = read.streams.video[0], length, 0
                for packet in read.demux(source):
                    if packet.dts is None or packet.pts is None:
                        continue
                    end = max(end, packet.pts + (packet.duration or 0))
                    packet.pts += start
                    packet.dts += start
                    packet.stream = stream
                    written.mux(packet)
                length = start + end
