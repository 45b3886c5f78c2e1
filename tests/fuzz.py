"""`make fuzz`: mutated files through every reader; anything but an answer or a clear error fails.

Usage: python -m tests.fuzz [COUNT] [SEED]. Prints inputs, slowest and largest, and keeps what
fails beside its seed in the folder fuzz-findings.
"""

import random
import resource
import signal
import struct
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from shapkeen.core.declared import read_declaration, read_outline
from shapkeen.core.errors import UnreadableFileError
from tests.builders.boxes import box, full, hvcc, movie
from tests.builders.ebml import element, matroska
from tests.builders.headers import (
    H265_SEI,
    VC3_FRAME,
    Vui,
    h265_sps,
    h265_vps,
    mpeg2_sequence,
    mpeg4_layer,
    prores_frame,
    sei,
    vp8_frame,
)
from tests.builders.mxf import mxf
from tests.builders.small import avi, flv, flv_picture, transport
from tests.core.declared.test_av1_vp9 import sequence, vp9_header
from tests.core.declared.test_isobmff import nclx

FINDINGS = Path("fuzz-findings")
INTERESTING = (0, 1, 0x7F, 0x80, 0xFF)


def seeds() -> Iterator[bytes]:
    """Yield healthy files that reach every reader."""
    yield movie(nclx(9, 16, 9), box("pasp", struct.pack(">II", 4, 3)), full("st3d", b"\x01"))
    messages = sei(H265_SEI, (144, b"\x03\xe8\x01\x90"), (137, bytes(24)), (45, b"\xc1\x81\0\0"))
    sps = h265_sps(vui=Vui(colour=(9, 16, 9), full_range=False), reference_sets=((2, 1), (1, 1)))
    units = (h265_vps(timing=(1, 24)), sps, messages)
    yield movie(config=hvcc(*units), entry_kind="hvc1", index_first=False)
    yield movie(config=box("av1C", b"\x81\x0d\x4c\0"), entry_kind="av01", samples=sequence())
    yield movie(config=box("vpcC", bytes(12)), entry_kind="vp09", samples=vp9_header() * 2)
    yield matroska(element(0x55B0, element(0x55BB, 9)), element(0x53B8, 3))
    yield matroska(tracks_last=True)
    yield matroska(codec_id="V_AV1", private=b"\x81\x0d\x4c\0", block=sequence())
    stereo = box("eyes", full("stri", b"\3"))
    yield movie(box("vexu", stereo, box("proj", full("prji", b"equi"))), full("sv3d", bytes(8)))
    yield movie(config=box("glbl", mpeg4_layer()), entry_kind="mp4v", samples=mpeg4_layer())
    yield movie(config=b"", entry_kind="m2v1", samples=mpeg2_sequence(colour=(1, 1, 1)))
    yield movie(config=b"", entry_kind="AVdh", samples=VC3_FRAME * 2)
    yield movie(config=b"", entry_kind="apch", samples=prores_frame() * 2)
    yield matroska(codec_id="V_VP8", private=b"", block=vp8_frame(640, 360))
    yield matroska(codec_id="V_FFV1", private=bytes(range(1, 60)), block=bytes(range(80)))
    yield mxf(VC3_FRAME)
    yield mxf(VC3_FRAME, in_footer=True, index=bytes(40))
    yield avi()
    yield flv(*flv_picture())
    yield transport()
    yield b"YUV4MPEG2 W64 H64 F25:1 Ip A1:1 C420p10 XCOLORRANGE=FULL\nFRAME\n" + bytes(300)


def boxes(data: bytes) -> list[tuple[int, int]]:
    """Return place and size of what looks like boxes or chunks: a size and a code of four signs."""
    found = []
    for at in range(len(data) - 8):
        code = data[at + 4 : at + 8]
        size = int.from_bytes(data[at : at + 4], "big")
        if 8 <= size <= len(data) - at and all(32 < sign < 127 for sign in code):
            found.append((at, size))
    return found


def restructure(data: bytes, chance: random.Random) -> bytes:
    """Return a file with one box taken away, doubled, moved, emptied or cut; sizes kept right."""
    known = boxes(data)
    if not known:
        return data
    at, size = chance.choice(known)
    whole = data[at : at + size]
    deed = chance.choice(("away", "twice", "empty", "cut", "elsewhere"))
    short = chance.randrange(8, size + 1)
    new = {
        "away": b"",
        "twice": whole * 2,
        "empty": struct.pack(">I", 8) + whole[4:8],
        "cut": struct.pack(">I", short) + whole[4:short],
        "elsewhere": b"",
    }[deed]
    made = bytearray(data)
    for place, length in known:
        if place < at and place + length >= at + size:
            made[place : place + 4] = struct.pack(">I", max(length + len(new) - size, 0))
    made[at : at + size] = new
    if deed == "elsewhere":
        place = chance.choice(known)[0]
        made[place:place] = whole
    return bytes(made)


def mutate(data: bytes, chance: random.Random) -> bytes:
    """Return a file with bytes flipped, runs copied or cut, boxes moved, or its end missing."""
    if chance.random() < 0.35:
        for _ in range(chance.randint(1, 3)):
            data = restructure(data, chance)
        if chance.random() < 0.5 or len(data) < 16:
            return data or b"\0"
    made = bytearray(data)
    for _ in range(chance.randint(1, 8)):
        place = chance.randrange(len(made))
        deed = chance.random()
        if deed < 0.6:
            made[place] = chance.choice(INTERESTING)
        elif deed < 0.8:
            made[place] ^= 1 << chance.randrange(8)
        elif deed < 0.9:
            made[place : place + 4] = chance.randbytes(4)
        else:
            length = chance.randint(1, 40)
            made[place:place] = made[place : place + length]
    return bytes(made[: chance.randrange(8, len(made))] if chance.random() < 0.15 else made)


class HangError(Exception):
    """An input kept a reader busy for far too long."""


@contextmanager
def limited(seconds: int = 5) -> Iterator[None]:
    """Raise HangError inside where the block takes longer: a hang must fail, not hang the run."""

    def stop(_number: int, _frame: object) -> None:
        raise HangError(f"no answer within {seconds} s")

    before = signal.signal(signal.SIGALRM, stop)
    signal.alarm(seconds)
    try:
        yield
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)


def main(count: int, seed: int) -> int:
    """Run and report; returns how many inputs failed."""
    chance = random.Random(seed)
    healthy = list(seeds())
    failures, slowest, answers = 0, 0.0, 0
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "mutated.bin"
        for number in range(count):
            data = mutate(chance.choice(healthy), chance)
            path.write_bytes(data)
            started = time.process_time()
            try:
                with limited():
                    read_declaration(path)
                    read_outline(path)
                answers += 1
            except UnreadableFileError:
                pass
            except Exception as error:  # noqa: BLE001  (what this is looking for)
                failures += 1
                FINDINGS.mkdir(exist_ok=True)
                (FINDINGS / f"{seed}-{number}.bin").write_bytes(data)
                print(f"{seed}-{number}: {type(error).__name__}: {error}")
            slowest = max(slowest, time.process_time() - started)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    errors = count - answers - failures
    print(
        f"{count} inputs, seed {seed}: {answers} declarations, {errors} errors, {failures} failures"
    )
    print(f"slowest {slowest * 1000:.0f} ms of CPU; peak of the process {peak:.0f} MiB")
    return failures


if __name__ == "__main__":
    numbers = [int(text) for text in sys.argv[1:]]
    sys.exit(bool(main(*(numbers + [100_000, 20261125][len(numbers) :]))))
