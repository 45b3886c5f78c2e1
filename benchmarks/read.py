"""Bytes read and time for reading headers, against file size from 1 MB to 100 GB (made sparse).

The curve must be flat: reading a declaration must not depend on how much picture data there is.
Usage: python -m benchmarks.read
"""

import struct
import tempfile
import time
from pathlib import Path

from shapkeen.core.declared import read_declaration
from tests.builders.boxes import SAMPLE, avcc, box, entry, sample_table, track

SIZES = (10**6, 10**8, 10**9, 10**10, 10**11)
TWO_HOURS_AT_60 = 2 * 3600 * 60
ROUNDS = 5


def _index(count: int, offset: int) -> bytes:
    """Return moov of a track of `count` pictures whose first one lies at `offset`."""
    table = sample_table(
        entry("avc1", avcc()),
        deltas=((count, 1001),),
        sizes=(len(SAMPLE),) * count,
        offset=offset,
        wide=True,
    )
    return box("moov", track(table, timescale=60_000))


def write(path: Path, size: int, *, index_first: bool, count: int = 2) -> None:
    """Write a sparse file of about `size` bytes."""
    ftyp = box("ftyp", b"isom", bytes(4), b"isom")
    head = 16
    moov = _index(count, 0)
    offset = len(ftyp) + head + (len(moov) if index_first else 0)
    moov = _index(count, offset)
    room = max(size - len(ftyp) - len(moov), len(SAMPLE) + head)
    with path.open("wb") as out:
        out.write(ftyp + (moov if index_first else b""))
        start = out.tell()
        out.write(struct.pack(">I4sQ", 1, b"mdat", room) + SAMPLE)
        out.truncate(start + room)
        out.seek(start + room)
        out.write(b"" if index_first else moov)


def bytes_read() -> int:
    """Return how many bytes this process has read so far."""
    fields = dict(line.split(": ") for line in Path("/proc/self/io").read_text().splitlines())
    return int(fields["rchar"])


def measure(path: Path) -> tuple[int, float]:
    """Return bytes read and the median milliseconds of some rounds, the first one not counted."""
    read_declaration(path)
    before = bytes_read()
    read_declaration(path)
    read = bytes_read() - before
    times = []
    for _ in range(ROUNDS):
        started = time.perf_counter()
        read_declaration(path)
        times.append((time.perf_counter() - started) * 1000)
    return read, sorted(times)[ROUNDS // 2]


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sparse.mp4"
        for count in (2, TWO_HOURS_AT_60):
            smallest = 0.0
            for size in SIZES:
                for index_first in (True, False):
                    write(path, size, index_first=index_first, count=count)
                    read, milliseconds = measure(path)
                    smallest = smallest or milliseconds
                    place = "first" if index_first else "last"
                    print(
                        f"{count:7} pictures, {size / 1e6:9.0f} MB, index {place:5}: "
                        f"{read / 1e3:8.1f} kB read, {milliseconds:6.2f} ms, "
                        f"{milliseconds / smallest:5.2f} of the smallest file's time"
                    )


if __name__ == "__main__":
    main()
