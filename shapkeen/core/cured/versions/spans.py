"""Coding in spans: stretches of the version that are coded apart, each kept once it is whole."""

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ...errors import InternalError
from ...measured.decoded.frames import Frame, FrameReader, Plane
from ...measured.encoding import keep_usual_priority
from .order import Order
from .picture.burning import NOTHING
from .picture.maker import PLANES, make_planes
from .settings import options_of

LEAST_S, MOST_S, USUAL_COUNT = 2.0, 30.0, 12
"""Seconds of a span, and into how many a version is cut if they allow it."""
COUNT_EVERY = 8


@dataclass(frozen=True, slots=True)
class Span:
    """Frames of the version, end not included."""

    first: int
    end: int

    @property
    def frames(self) -> int:
        """Return how many they are."""
        return self.end - self.first


def spans_of(order: Order) -> tuple[Span, ...]:
    """Return the spans of a version: whole groups of pictures each, but for the last."""
    wanted = order.frames / USUAL_COUNT
    wanted = min(max(wanted, LEAST_S * order.rate), MOST_S * order.rate)
    groups = max(round(float(wanted) / order.group), 1)
    step = groups * order.group
    return tuple(Span(at, min(at + step, order.frames)) for at in range(0, order.frames, step))


def frames_of(master: Path, order: Order, span: Span) -> Iterator[tuple[int, Frame]]:
    """Yield (number in the version, decoded master frame) of a span.

    Raises UnreadableFileError where the master cannot be decoded, InternalError where a frame of it
    is missing.
    """
    numbers = range(order.first + span.first, order.first + span.end)
    due = span.first
    with FrameReader(master, order.rate) as reader:
        for frame in reader.read(numbers):
            if frame.number != order.first + due:
                break
            yield due, frame
            due += 1
    if due < span.end:
        raise InternalError(
            f"The master has no frame {order.first + due}, though it counts more. Measure the "
            "master first: its page tells where it is broken.",
            code="frame-missing",
            where=master.name,
        )


def code_span(
    master: Path, order: Order, span: Span, goal: Path, *, bit_rate: float | None = None
) -> int:
    """Code a span into a file, which has its name only once it is whole; return its bytes.

    bit_rate: bits a second of this span, where the recipe asks for a rate. How many frames are
    done stands in a file beside it meanwhile.
    """
    part = goal.with_suffix(".part")
    looks = [""]
    if bit_rate is not None and order.recipe.coding.passes == 2:
        told = goal.with_suffix(".stats")
        looks = [f"1:{told}", f"2:{told}"]
    for look in looks:
        _code(master, order, span, part, options_of(order, bit_rate=bit_rate, look=look))
    size = part.stat().st_size
    part.replace(goal)
    return size


def frames_done(goal: Path) -> int:
    """Return how many frames of a span that is being coded are done; 0 where none is known."""
    try:
        return int(goal.with_suffix(".count").read_text() or 0)
    except (OSError, ValueError):
        return 0


def _code(master: Path, order: Order, span: Span, part: Path, options: dict[str, str]) -> None:
    count = part.with_suffix(".count")
    with av.open(str(part), "w", format=order.encoder.span_wrapper) as container:
        stream = _stream(container, order, options)
        for number, frame in frames_of(master, order, span):
            picture = _picture(frame, order)
            picture.pts = number - span.first
            container.mux(stream.encode(picture))
            if number % COUNT_EVERY == 0:
                keep_usual_priority()
                count.write_text(str(number - span.first))
        container.mux(stream.encode(None))


def _stream(container: Any, order: Order, options: dict[str, str]) -> VideoStream:
    stream = container.add_stream(order.encoder.library, order.rate, options)
    assert isinstance(stream, VideoStream)  # noqa: S101  (encoders holds nothing else)
    stream.width, stream.height = order.way.goal.raster
    stream.pix_fmt = order.kind
    context, goal = stream.codec_context, order.way.goal.coding
    context.thread_count = 1
    context.color_primaries, context.color_trc = goal.primaries or 2, goal.transfer or 2
    context.colorspace, context.color_range = goal.matrix or 2, 2 if goal.full_range else 1
    context.sample_aspect_ratio = Fraction(*order.aspect)
    return stream


def _picture(frame: Frame, order: Order) -> VideoFrame:
    """Return the version's frame as the libraries hold it."""
    pieces = order.placing.at(frame.number)
    burn = order.recipe.burn_in
    if order.way.is_same(pieces) and burn == NOTHING:
        return frame_of((frame.luma, frame.cb, frame.cr), order.kind)
    planes = make_planes(frame, order.way, pieces)
    burn.burn(dict(zip(PLANES, planes, strict=True)), order.way.goal, frame.number, order.rate)
    return frame_of(planes, order.kind)


def frame_of(planes: tuple[Plane, Plane, Plane], kind: str) -> VideoFrame:
    """Return a frame that holds planes, of the libraries' name of their format."""
    height, width = planes[0].shape
    made = VideoFrame(width, height, kind)
    for plane, codes in zip(made.planes, planes, strict=True):
        rows = np.frombuffer(memoryview(plane), codes.dtype)
        rows = rows.reshape(-1, plane.line_size // codes.itemsize)
        rows[: codes.shape[0], : codes.shape[1]] = codes
    return made
