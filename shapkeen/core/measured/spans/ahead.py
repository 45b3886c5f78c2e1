"""Decoding some pictures at a time: a decoder is quicker that is not broken off after each.

Counting a picture turns the decoder's own data and code out of the processor's nearest memory.
"""

from collections import deque
from collections.abc import Iterable, Iterator
from itertools import islice
from typing import NamedTuple

from av.video.frame import VideoFrame

from ..decoded.damage import DamageFinder

MOST_BYTES = 40 << 20
"""Of pictures that wait: six of HD in 10 bits, one of UHD."""
MOST = 12


class Ahead(NamedTuple):
    """A picture that was decoded ahead. is_reliable: whether nothing it needs was broken."""

    ticks: int
    picture: VideoFrame
    is_reliable: bool


def decoded_ahead(
    pictures: Iterable[tuple[int, VideoFrame]], damage: DamageFinder
) -> Iterator[Ahead]:
    """Yield pictures as they come, decoded some at a time. damage: told of them while they are."""
    rest, waiting, most = iter(pictures), deque[Ahead](), 1
    while True:
        waiting.extend(Ahead(*one, not damage.is_open) for one in islice(rest, most))
        if not waiting:
            return
        size = sum(plane.buffer_size for plane in waiting[0].picture.planes)
        most = min(max(MOST_BYTES // size, 1), MOST)
        while waiting:
            yield waiting.popleft()
