"""Which coded pictures have to be decoded for those that are shown before some time."""

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING, TypeAlias

from .damage import REORDERED

if TYPE_CHECKING:
    import av
    from av.video.stream import VideoStream

Packet: TypeAlias = "av.Packet[VideoStream]"


def needed(packets: Iterable[Packet], end: int | None) -> Iterator[Packet]:
    """Yield what has to be decoded for all that is shown before the end.

    What is shown later is held back until something that is shown before follows: that may be coded
    from it. So no picture behind the span is decoded in vain, whatever the order of coding.
    """
    held: list[Packet] = []
    is_ordered = True
    for packet in packets:
        if end is not None and packet.pts is not None:
            if packet.dts is not None:  # not every wrapper keeps it
                is_ordered = is_ordered and packet.dts <= packet.pts
                if is_ordered and packet.dts >= end:
                    return
            if packet.pts >= end:
                held.append(packet)
                if len(held) > 2 * REORDERED:  # fields may come in packets of their own
                    return
                continue
        yield from held
        held.clear()
        yield packet
