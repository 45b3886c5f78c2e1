"""Bytes read and time for reading headers, against file size from 1 MB to 100 GB (made sparse).

The curve must be flat: reading a declaration must not depend on how much picture data there is.
MP4 with its index at either end and with a two-hour index, then one file of each other wrapper.
Usage: python -m benchmarks.read
"""

import struct
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from shapkeen.core.declared import read_declaration
from shapkeen.core.declared.wrappers.matroska import elements as ids
from shapkeen.core.declared.wrappers.mxf import klv
from tests.builders.boxes import SAMPLE, avcc, box, entry, sample_table, track
from tests.builders.ebml import matroska
from tests.builders.headers import VC3_FRAME
from tests.builders.mxf import mxf
from tests.builders.small import avi, flv, flv_picture, transport

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


def _sparse(path: Path, head: bytes, size: int, tail: bytes = b"") -> None:
    """Write head and tail with a hole between them, `size` bytes in all."""
    with path.open("wb") as out:
        out.write(head)
        out.truncate(max(size, len(head) + len(tail)))
        out.seek(-len(tail), 2)
        out.write(tail)


def _matroska(path: Path, size: int) -> None:
    whole = matroska()
    head = bytearray(whole)
    for identity in (ids.SEGMENT, ids.CLUSTER):
        place = head.index(identity.to_bytes(4, "big")) + 4
        head[place : place + 8] = (1 << 56 | size - place - 8).to_bytes(8, "big")
    _sparse(path, bytes(head), size)


def _mxf(path: Path, size: int) -> None:
    whole = mxf(VC3_FRAME)
    # The essence element's length is made as long as the file.
    place = whole.index(klv.ESSENCE, whole.index(klv.PRIMER)) + klv.KEY_BYTES
    head = whole[:place] + b"\x88" + (size - place - 9).to_bytes(8, "big") + VC3_FRAME
    _sparse(path, head, size)


def _avi(path: Path, size: int) -> None:
    _sparse(path, avi(), size)


def _flv(path: Path, size: int) -> None:
    _sparse(path, flv(*flv_picture()), size)


def _transport(path: Path, size: int) -> None:
    stream = transport()
    size = size // len(stream) * len(stream)
    _sparse(path, stream, size, stream)


def _y4m(path: Path, size: int) -> None:
    _sparse(path, b"YUV4MPEG2 W1920 H1080 F24:1 Ip A1:1 C420\nFRAME\n", size)


OTHERS: dict[str, Callable[[Path, int], None]] = {
    "matroska": _matroska,
    "mxf": _mxf,
    "avi": _avi,
    "flv": _flv,
    "mpegts": _transport,
    "y4m": _y4m,
}


def report(what: str, size: int, path: Path, smallest: float) -> float:
    """Print one line; return the milliseconds of the smallest file."""
    read, milliseconds = measure(path)
    smallest = smallest or milliseconds
    print(
        f"{what:32} {size / 1e6:9.0f} MB: {read / 1e3:8.1f} kB read, {milliseconds:6.2f} ms, "
        f"{milliseconds / smallest:5.2f} of the smallest file's time"
    )
    return smallest


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sparse.mp4"
        for count in (2, TWO_HOURS_AT_60):
            smallest = 0.0
            for size in SIZES:
                for index_first in (True, False):
                    write(path, size, index_first=index_first, count=count)
                    place = "first" if index_first else "last"
                    what = f"mp4, {count} pictures, index {place}"
                    smallest = report(what, size, path, smallest)
        for name, write_other in OTHERS.items():
            smallest = 0.0
            for size in SIZES:
                write_other(path, size)
                smallest = report(name, size, path, smallest)


if __name__ == "__main__":
    main()
