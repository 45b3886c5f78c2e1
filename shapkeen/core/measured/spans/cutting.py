"""Cutting a file into spans at random-access points, and decoding one span exactly.

A span holds the frames with first <= time < end, by presentation time in the stream's ticks;
None means open. Rules found by trying on 14 kinds of file: cut at the times of key frames; check
that the first decoded frame is not late, else enter earlier; never count frames after a seek.
"""

from collections.abc import Iterator
from contextlib import suppress
from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import NamedTuple

import av
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..decoded.damage import DamageFinder, SliceChecks
from ..decoded.frames import Opened, open_picture

LEAST_SPAN_S = 5
MOST_SPANS = 240
UNCUT = frozenset({"mpegts", "mpeg", "flv"})
"""These keep no index, and a seek in them does not land on a key frame for sure."""
BACK_S = (0, 2, 8, 32)
MOST_DAMAGED = 10_000


class Span(NamedTuple):
    """Frames with first <= ticks < end; None = open."""

    first: int | None
    end: int | None


def plan_spans(path: Path) -> tuple[Span, ...]:
    """Return spans that together hold every frame of a file once.

    One open span where the file keeps no index of key frames, or is short.
    """
    opened = open_picture(path, threads=1)
    with opened.container as container:
        if container.format.name in UNCUT or opened.stream.start_time is None:
            return (Span(None, None),)
        cuts = cuts_of(opened)
    edges = [None, *cuts, None]
    return tuple(Span(first, end) for first, end in pairwise(edges))


def cuts_of(opened: Opened) -> list[int]:
    """Return rising presentation times of key frames, far enough from each other."""
    keys = key_times(opened)
    if len(keys) < 2:
        return []
    least = max(LEAST_SPAN_S / opened.tick, Fraction(keys[-1] - keys[0], MOST_SPANS))
    cuts: list[int] = []
    last = keys[0]
    for key in keys[1:]:
        if key - last < least:
            continue
        shown = shown_at(opened, key)
        if shown is not None and (not cuts or shown > cuts[-1]):
            cuts.append(shown)
            last = key
    return cuts


def key_times(opened: Opened) -> list[int]:
    """Return the decoding times of the key frames that the file's index tells, rising."""
    # Matroska's index stands at the end, and is read at the first seek only.
    with suppress(av.FFmpegError, OSError):
        opened.container.seek(opened.stream.duration or 0, stream=opened.stream, backward=True)
    return sorted(e.timestamp for e in opened.stream.index_entries if e.is_keyframe)


def shown_at(opened: Opened, key: int) -> int | None:
    """Return when the key frame that is entered at this time is shown.

    key: its decoding time. Some readers seek by the time at which frames are shown, and land on the
    key frame before where that is later.
    """
    shown = None
    with suppress(av.FFmpegError, OSError):
        packet = entered(opened, key)
        shown = packet.pts if packet else None
        if packet and packet.dts is not None and shown is not None and shown < key:
            later = entered(opened, key + shown - packet.dts)
            shown = later.pts if later else shown
    return shown


def entered(opened: Opened, ticks: int) -> "av.Packet[VideoStream] | None":
    """Return the packet that reading from a time on begins with; None where it is no key frame."""
    opened.container.seek(ticks, stream=opened.stream, backward=True)
    packet = next(opened.container.demux(opened.stream), None)
    return packet if packet is not None and packet.is_keyframe else None


def read_span(
    path: Path, span: Span, *, threads: int = 0, damage: DamageFinder | None = None
) -> Iterator[tuple[int, VideoFrame]]:
    """Yield (ticks, frame) of every decodable frame of a span, in order of time.

    Frames without a time are numbered as they come. damage: told of what decodes with errors only.
    Raises UnreadableFileError where the file cannot be opened.
    """
    finder = damage or DamageFinder()
    for back in BACK_S:
        opened = open_picture(path, threads=threads)
        with opened.container:
            if _enter(opened, span, back):
                yield from _within(opened, span, finder)
                return
    opened = open_picture(path, threads=threads)
    with opened.container:
        yield from _within(opened, span, finder)


def _enter(opened: Opened, span: Span, back_s: int) -> bool:
    """Go to a point before the span; False where the first frame from there is late."""
    if span.first is None:
        return True
    target = span.first - int(back_s / opened.tick)
    with suppress(av.FFmpegError, OSError):
        opened.container.seek(target, stream=opened.stream, backward=True)
        first, _ = next(_decoded(opened), (None, False))
        if first is None or first.pts is None or first.pts > span.first:
            return False
        opened.container.seek(target, stream=opened.stream, backward=True)
        return True
    return False


def _within(opened: Opened, span: Span, damage: DamageFinder) -> Iterator[tuple[int, VideoFrame]]:
    untimed = 0
    for picture, is_broken in _decoded(opened, damage):
        ticks = picture.pts
        if ticks is None:
            ticks, untimed = untimed, untimed + 1
        if span.end is not None and ticks >= span.end:
            return
        damage.see(ticks, is_key=bool(picture.key_frame), is_broken=is_broken)
        if span.first is None or ticks >= span.first:
            yield ticks, picture


def _decoded(
    opened: Opened, damage: DamageFinder | None = None
) -> Iterator[tuple[VideoFrame, bool]]:
    """Yield every decodable picture and whether it is broken; a bounded number gives none."""
    packets = opened.container.demux(opened.stream)
    checks = SliceChecks() if opened.stream.codec_context.name == "ffv1" else None
    failed = 0
    while failed < MOST_DAMAGED:
        packet = None
        try:
            packet = next(packets, None)
            pictures = packet.decode() if packet is not None else None
        except av.error.EOFError:
            return
        except (av.FFmpegError, OSError):
            failed += 1
            if damage is not None and packet is not None:
                damage.fail(packet.pts, is_key=bool(packet.is_keyframe))
            continue
        if packet is None or pictures is None:
            return
        fails_check = checks is not None and packet.size and checks.is_broken(bytes(packet))
        if fails_check and damage is not None:
            damage.spoil(packet.pts)
        for picture in pictures:
            yield picture, bool(picture.is_corrupt)
