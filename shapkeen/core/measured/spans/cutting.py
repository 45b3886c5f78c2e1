"""Cutting a file into spans at random-access points, and decoding one span exactly.

A span holds the frames with first <= time < end, by presentation time in the stream's ticks;
None means open. Rules found by trying on 14 kinds of file: cut at the times of key frames; check
that the first decoded frame is not late, else enter earlier; never count frames after a seek.
"""

from collections.abc import Iterable, Iterator
from contextlib import suppress
from fractions import Fraction
from itertools import chain, pairwise
from pathlib import Path
from typing import NamedTuple

import av
from av.video.frame import VideoFrame

from ..decoded.damage import DamageFinder, SliceChecks
from ..decoded.frames import Opened, open_picture
from ..decoded.packets import Packet, needed

LEAST_SPAN_S = 5
MOST_SPANS = 240
ASKED_KEYS = 4
UNCUT = frozenset({"mpegts", "mpeg", "flv"})
"""These keep no index, and a seek in them does not land on a key frame for sure."""
BACK_S = (0, 2, 8, 32)
MOST_DAMAGED = 10_000


class Span(NamedTuple):
    """Frames with first <= ticks < end; None = open."""

    first: int | None
    end: int | None


class Picture(NamedTuple):
    """A decoded picture, and whether its decoder says that it is broken."""

    frame: VideoFrame
    is_broken: bool


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


def shown_key_times(opened: Opened) -> list[int]:
    """Return when the key frames that the file's index tells are shown, rising.

    By how much coding runs ahead is asked of some of them, the most of it taken for all: a frame
    behind a key frame is reached soon, while one before it takes a whole group of pictures.
    """
    keys = key_times(opened)
    asked = [keys[len(keys) * part // ASKED_KEYS] for part in range(ASKED_KEYS)] if keys else []
    shown = {key: shown_at(opened, key) for key in asked}
    ahead = max((at - key for key, at in shown.items() if at is not None), default=0)
    return [key + max(ahead, 0) for key in keys]


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


def entered(opened: Opened, ticks: int) -> "Packet | None":
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
    for back in (*BACK_S, None):
        opened = open_picture(path, threads=threads)
        with opened.container:
            is_sure = back is None or span.first is None
            if not is_sure and not _seek(opened, span, back or 0):
                continue
            pictures = _decoded(opened, span.end, finder)
            first = next(pictures, None)
            if is_sure or _is_in_time(first, span):
                yield from _within(
                    pictures if first is None else chain([first], pictures), span, finder
                )
                return
            finder.forget()


def _seek(opened: Opened, span: Span, back_s: int) -> bool:
    """Go to a point before the span; False where the file cannot be entered there."""
    target = (span.first or 0) - int(back_s / opened.tick)
    with suppress(av.FFmpegError, OSError):
        opened.container.seek(target, stream=opened.stream, backward=True)
        return True
    return False


def _is_in_time(first: Picture | None, span: Span) -> bool:
    """Return whether the first picture from a point of entry on is not late for the span."""
    if first is None or first.frame.pts is None or span.first is None:
        return False
    return first.frame.pts <= span.first


def _within(
    pictures: Iterable[Picture], span: Span, damage: DamageFinder
) -> Iterator[tuple[int, VideoFrame]]:
    untimed = 0
    for picture, is_broken in pictures:
        ticks = picture.pts
        if ticks is None:
            ticks, untimed = untimed, untimed + 1
        if span.end is not None and ticks >= span.end:
            return
        damage.see(ticks, is_key=bool(picture.key_frame), is_broken=is_broken)
        if span.first is None or ticks >= span.first:
            yield ticks, picture


def _decoded(opened: Opened, end: int | None, damage: DamageFinder) -> Iterator[Picture]:
    """Yield every decodable picture up to a time; a bounded number gives none."""
    packets = needed(opened.container.demux(opened.stream), end)
    checks = SliceChecks() if opened.stream.codec_context.name == "ffv1" else None
    failed = 0
    while failed < MOST_DAMAGED:
        packet = None
        try:
            packet = next(packets, None)
            if packet is None:  # all that is needed has gone in: what is left comes out
                pictures = opened.stream.codec_context.decode(None)
            else:
                pictures = packet.decode()
        except av.error.EOFError:
            return
        except (av.FFmpegError, OSError):
            failed += 1
            if packet is not None:
                damage.fail(packet.pts, is_key=bool(packet.is_keyframe))
            continue
        if checks and packet and packet.size and checks.is_broken(bytes(packet)):
            damage.spoil(packet.pts)
        for picture in pictures:
            yield Picture(picture, bool(picture.is_corrupt))
        if packet is None:
            return
