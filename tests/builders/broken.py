"""Files whose coded pictures are broken: bytes inside chosen packets are turned over."""

import random
from pathlib import Path

import av

from .media import place

HEAD_BYTES = 40
"""Of a packet, left alone: a broken header is another matter than a broken picture."""


def flipped(source: Path, frames: tuple[int, ...], *, seed: int = 0, times: int = 3) -> Path:
    """Return a copy in which bytes of the packets with these frames are turned over."""
    chance, data = random.Random(seed), bytearray(source.read_bytes())
    with av.open(str(source)) as container:
        packets = [one for one in container.demux(container.streams.video[0]) if one.size]
        shown = sorted(packets, key=lambda packet: packet.pts)
        for frame in frames:
            packet = shown[frame]
            start = data.index(bytes(packet), packet.pos)  # behind its key, where it has one
            for _ in range(times):
                at = chance.randrange(min(HEAD_BYTES, packet.size // 2), packet.size)
                data[start + at] ^= 1 << chance.randrange(8)
    path = place(f"broken-{seed}-{source.name}")
    path.write_bytes(data)
    return path
