"""Which pictures of a file are broken, as its decoder says while it decodes.

A decoder says so of the broken picture alone. What was coded from it is as wrong, and is decoded
without a word, until a picture comes that needs no other.
"""

import zlib
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field

from ..model import Damage

REORDERED = 16
"""Frames: the most that pictures shown earlier may be coded later (H.264 and H.265 alike)."""
MOST_STRETCHES = 2000
FFV1_FOOTER_BYTES = 8
REVERSED = bytes(int(f"{number:08b}"[::-1], 2) for number in range(256))


@dataclass(slots=True)
class _Stretch:
    """From a broken picture to the next that needs no other, in the file's ticks; None: open."""

    key: int
    broken: int
    end: int | None = None


@dataclass(frozen=True, slots=True)
class SpanDamage:
    """What is broken in a span: frame numbers of broken pictures, and stretches as in Damage."""

    frames: tuple[int, ...] = ()
    undecoded: int = 0
    stretches: tuple[tuple[int, int], ...] = ()


UNBROKEN = SpanDamage()


@dataclass(slots=True)
class DamageFinder:
    """Told of everything that is decoded, from the point of entry on; by ticks.

    Pictures shown before the first key picture are passed over: behind a seek they lack what they
    were coded from, though nothing is wrong with the file.
    """

    first: int | None = None
    end: int | None = None
    _entry: int | None = None
    _key: int | None = None
    _last: int = 0
    _frames: list[int] = field(default_factory=list)
    _undecoded: int = 0
    _stretches: list[_Stretch] = field(default_factory=list)
    _spoilt: set[int] = field(default_factory=set)

    @property
    def is_open(self) -> bool:
        """Return whether what is decoded now cannot be relied on."""
        return bool(self._stretches) and self._stretches[-1].end is None

    def forget(self) -> None:
        """Begin anew: the file is entered at another point."""
        self._entry, self._key, self._last, self._undecoded = None, None, 0, 0
        self._frames.clear()
        self._stretches.clear()
        self._spoilt.clear()

    def see(self, ticks: int, *, is_key: bool, is_broken: bool) -> None:
        """Take note of a decoded picture, in order of time."""
        self._last = ticks
        if is_key:
            self._enter(ticks)
            if self.is_open:
                self._stretches[-1].end = ticks
        if is_broken or ticks in self._spoilt:
            self._spoilt.discard(ticks)
            self._mark(ticks)

    def spoil(self, ticks: int | None) -> None:
        """Take note of a coded picture that is broken, though its decoder does not say so."""
        self._spoilt |= set() if ticks is None else {ticks}

    def fail(self, ticks: int | None, *, is_key: bool) -> None:
        """Take note of a coded picture that gives none."""
        at = self._last if ticks is None else ticks
        if is_key and self._entry is None:
            self._enter(at)
        if self._mark(at):
            self._undecoded += 1

    def _enter(self, ticks: int) -> None:
        self._key = ticks
        self._entry = ticks if self._entry is None else self._entry

    def _mark(self, ticks: int) -> bool:
        """Return whether a broken picture counts, and keep it."""
        if self._entry is None or self._key is None or ticks < self._entry:
            return False
        if not self.is_open:
            self._stretches.append(_Stretch(self._key, ticks))
        inside = (self.first is None or ticks >= self.first) and (
            self.end is None or ticks < self.end
        )
        if inside and ticks not in self._frames[-2 * REORDERED :]:
            self._frames.append(ticks)
            return True
        return False

    def result(self, number: Callable[[int], int]) -> SpanDamage:
        """Return what is broken, in frame numbers. number: gives that of the frame at a time."""
        last = number(self._last)
        made = []
        for one in self._stretches:
            start = max(number(one.key), number(one.broken) - REORDERED)
            end = last if one.end is None else number(one.end) - 1
            made.append((start, max(end, number(one.broken))))
        frames = sorted({number(ticks) for ticks in self._frames})
        return SpanDamage(tuple(frames), self._undecoded, tuple(_merged(made)))


def joined_damage(parts: Iterable[SpanDamage]) -> SpanDamage:
    """Return what is broken in some spans of a file as one."""
    spans = list(parts)
    return SpanDamage(
        tuple(sorted({number for part in spans for number in part.frames})),
        sum(part.undecoded for part in spans),
        tuple(_merged([one for part in spans for one in part.stretches])),
    )


def damage_of(found: SpanDamage) -> Damage:
    """Return what is broken in a file, from what is in all of its spans."""
    frames = found.frames
    return Damage(
        count=len(frames),
        first=frames[0] if frames else None,
        undecoded=found.undecoded,
        stretches=tuple(_fewer(list(found.stretches))) if frames else (),
    )


def _merged(stretches: list[tuple[int, int]]) -> Iterator[tuple[int, int]]:
    """Yield stretches in order, those that touch as one."""
    held: tuple[int, int] | None = None
    for first, last in sorted(stretches):
        if held is not None and first <= held[1] + 1:
            held = held[0], max(held[1], last)
            continue
        if held is not None:
            yield held
        held = first, last
    if held is not None:
        yield held


def _fewer(stretches: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Return at most MOST_STRETCHES, the nearest joined: a file that is broken all over."""
    while len(stretches) > MOST_STRETCHES:
        joined = zip(stretches[::2], [*stretches[1::2], stretches[-1]], strict=False)
        stretches = [(one[0], other[1]) for one, other in joined]
    return stretches


class SliceChecks:
    """Checks the slices of FFV1 pictures by the sums they carry: a decoder only logs a wrong one.

    RFC 9043 sections 4.7 and 4.9: slices from the end, each with a footer of its size (24 bits), an
    error status (8) and a CRC-32 over the whole, which then is 0. Sums begun otherwise are known by
    never being right; then, and without sums, nothing is told.
    """

    def __init__(self) -> None:
        """Begin with a file of which nothing is known yet."""
        self._is_known = False

    def is_broken(self, packet: bytes) -> bool:
        """Return whether a coded picture fails a check that others of its file pass."""
        sums = [_crc_32(one) for one in _slices(packet)]
        passed = bool(sums) and not any(sums)
        self._is_known = self._is_known or passed
        return self._is_known and not passed


def _slices(packet: bytes) -> list[bytes]:
    """Return the slices of an FFV1 picture; none where they have no such footers."""
    end, found = len(packet), []
    while end > FFV1_FOOTER_BYTES:
        footer = end - FFV1_FOOTER_BYTES
        start = footer - int.from_bytes(packet[footer : footer + 3], "big")
        if not 0 <= start < footer:
            return []
        found.append(packet[start:end])
        end = start
    return found if end == 0 else []


def _crc_32(data: bytes) -> int:
    """Return the CRC-32 of RFC 9043 section 4.9.3, bits reversed; begun at 0, so 0 when whole.

    zlib's is the same polynomial, least bit first, begun and ended with all bits turned.
    """
    return zlib.crc32(data.translate(REVERSED), 0xFFFFFFFF) ^ 0xFFFFFFFF
