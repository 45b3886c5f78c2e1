"""Where the parts of a segment lie: clusters of unknown size too, and the frames in them.

Source: RFC 8794 section 6.2 (unknown sizes), RFC 9559 sections 5 and 10.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from ...declared.window import Window
from ...declared.wrappers.matroska import elements as ids
from ...declared.wrappers.matroska.ebml import read_number
from .items import CRC, OddElementError

HEAD_BYTES = 12
LEVEL_ONE = ids.LEVEL_ONE | {0x1043A770, 0xEC}
POSITION, PREVIOUS_SIZE = 0xA7, 0xAB
KNOWN = frozenset({POSITION, PREVIOUS_SIZE, CRC, ids.SIMPLE_BLOCK, ids.BLOCK_GROUP})
LACED = 0b110


@dataclass(frozen=True, slots=True)
class Part:
    """An element's places: of its id, its size, its first body byte, and what follows it.

    inner: of a cluster and a group the parts in it that matter.
    """

    id: int
    start: int
    size_at: int
    begin: int
    end: int
    is_sized: bool = True
    inner: tuple["Part", ...] = ()


@dataclass(frozen=True, slots=True)
class Frame:
    """One frame's bytes, from first to behind the last."""

    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Segment:
    """The first segment: places of its size and its bytes, and its parts in file order."""

    size_at: int
    begin: int
    end: int
    is_sized: bool
    parts: tuple[Part, ...]
    clusters: Mapping[int, tuple[Part, Part | None]]
    """By where it begins: a cluster, and the one before it."""

    @property
    def tracks(self) -> Part:
        """Return the tracks; raises OddElementError without any, or with several."""
        found = [part for part in self.parts if part.id == ids.TRACKS]
        if len(found) != 1:
            raise OddElementError("it states its tracks twice, or not at all")
        return found[0]

    def cluster_at(self, start: int) -> Part | None:
        """Return the cluster that begins at a byte."""
        return self.clusters.get(start, (None, None))[0]

    def cluster_before(self, part: Part) -> Part | None:
        """Return the cluster before another one."""
        return self.clusters[part.start][1]


def read_segment(window: Window) -> Segment:
    """Return the parts of the first segment; raises OddElementError where they do not add up."""
    at = 0
    while at < window.size:
        part = _part(window, at, window.size)
        if part.id == ids.SEGMENT:
            parts = tuple(_parts(window, part.begin, part.end))
            end = parts[-1].end if parts and not part.is_sized else part.end
            clusters = [one for one in parts if one.id == ids.CLUSTER]
            by_start = {
                one.start: (one, before)
                for one, before in zip(clusters, [None, *clusters], strict=False)
            }
            return Segment(part.size_at, part.begin, end, part.is_sized, parts, by_start)
        at = part.end
    raise OddElementError("it has no segment")


def _part(window: Window, at: int, end: int) -> Part:
    head = window.read(at, min(HEAD_BYTES, end - at))
    identity = read_number(head[:4], keep_marker=True)
    size = read_number(head[identity[1] :], keep_marker=False) if identity else None
    if identity is None or size is None:
        raise OddElementError(f"no element stands at byte {at}")
    size_at = at + identity[1]
    begin = size_at + size[1]
    known = size[0] >= 0
    stop = begin + size[0] if known else end
    if stop > end:
        raise OddElementError(f"the element at byte {at} reaches out of its parent")
    return Part(identity[0], at, size_at, begin, stop, known)


def _parts(window: Window, at: int, end: int) -> Iterator[Part]:
    while at < end:
        part = _part(window, at, end)
        if part.id == ids.CLUSTER:
            inner = tuple(cluster_parts(window, part))
            stop = part.end if part.is_sized else (inner[-1].end if inner else part.begin)
            known = tuple(_opened(window, one) for one in inner if one.id in KNOWN)
            part = Part(part.id, part.start, part.size_at, part.begin, stop, part.is_sized, known)
        elif not part.is_sized:
            raise OddElementError(f"the element at byte {at} has no size")
        if part.id == CRC:
            raise OddElementError("one check sum stands for all of its segment")
        yield part
        at = part.end


def cluster_parts(window: Window, cluster: Part) -> Iterator[Part]:
    """Yield the parts of a cluster; one of unknown size ends where the segment goes on."""
    at = cluster.begin
    while at < cluster.end:
        part = _part(window, at, cluster.end)
        if not cluster.is_sized and part.id in LEVEL_ONE and part.id != 0xEC:
            return
        if not part.is_sized:
            raise OddElementError(f"the element at byte {at} has no size")
        yield part
        at = part.end


def _opened(window: Window, part: Part) -> Part:
    if part.id != ids.BLOCK_GROUP:
        return part
    blocks = tuple(one for one in parts_of(window, part) if one.id == ids.BLOCK)
    return Part(part.id, part.start, part.size_at, part.begin, part.end, part.is_sized, blocks)


def parts_of(window: Window, part: Part) -> Iterator[Part]:
    """Yield the elements inside of one."""
    at = part.begin
    while at < part.end:
        one = _part(window, at, part.end)
        yield one
        at = one.end


def frames_of(window: Window, segment: Segment, number: int) -> Iterator[Frame]:
    """Yield the frames of a track, in file order; laced ones are left out."""
    for part in segment.parts:
        for inner in part.inner if part.id == ids.CLUSTER else ():
            blocks = inner.inner if inner.id == ids.BLOCK_GROUP else (inner,)
            for block in blocks:
                if block.id not in (ids.SIMPLE_BLOCK, ids.BLOCK):
                    continue
                head = window.read(block.begin, min(12, block.end - block.begin))
                track = read_number(head, keep_marker=False)
                if track is None or track[0] != number or head[track[1] + 2] & LACED:
                    continue
                yield Frame(block.begin + track[1] + 3, block.end)
