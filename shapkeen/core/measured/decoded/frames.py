"""Decoding: frames as planes of code values, by frame number, with few seeks.

Uses PyAV (the FFmpeg libraries) for packets and decoding only; what files *declare* is read
by our own readers elsewhere.
"""

from bisect import bisect_left, bisect_right
from collections.abc import Generator, Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

import av
import numpy as np
import numpy.typing as npt
from av.container import InputContainer
from av.video.frame import VideoFrame
from av.video.plane import VideoPlane
from av.video.stream import VideoStream

from ...errors import UnreadableFileError
from .packets import needed

Plane = npt.NDArray[np.uint8] | npt.NDArray[np.uint16]

PLANAR = {
    # FFmpeg pixel format: depth
    "yuv420p": 8,
    "yuv422p": 8,
    "yuv444p": 8,
    "yuvj420p": 8,
    "yuvj422p": 8,
    "yuvj444p": 8,
    "yuv420p10le": 10,
    "yuv422p10le": 10,
    "yuv444p10le": 10,
    "yuv420p12le": 12,
    "yuv422p12le": 12,
    "yuv444p12le": 12,
}
SEEK_GAP_S = 4.0
"""Shorter gaps are decoded through: a seek throws away a group of pictures, ½ to 2 s each."""
SEEK_BACK_S = (0.0, 1.0, 4.0, 16.0)
"""How much earlier to enter when a seek came out behind the wanted frame (open groups)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Frame:
    """One decoded picture. Planes (row, column) hold code values; chroma may be smaller."""

    number: int
    depth: int
    luma: Plane
    cb: Plane
    cr: Plane

    @property
    def raster(self) -> tuple[int, int]:
        """Return width and height in luma samples."""
        return self.luma.shape[1], self.luma.shape[0]


def rolled(frame: Frame, by: tuple[int, int]) -> Frame:
    """Return a frame moved left and up by so many samples, what leaves coming back at the far side.

    So cuts of single shots lie where the others do; nothing outside them is looked at then.
    """
    if by == (0, 0):
        return frame
    width, height = frame.raster

    def moved(plane: Plane) -> Plane:
        steps = round(by[1] * plane.shape[0] / height), round(by[0] * plane.shape[1] / width)
        made: Plane = np.roll(plane, (-steps[0], -steps[1]), axis=(0, 1))
        return made

    return replace(frame, luma=moved(frame.luma), cb=moved(frame.cb), cr=moved(frame.cr))


def _plane(plane: VideoPlane, depth: int) -> Plane:
    buffer = memoryview(plane)  # without copying
    rows: Plane
    if depth == 8:
        rows = np.frombuffer(buffer, np.uint8).reshape(-1, plane.line_size)
    else:
        rows = np.frombuffer(buffer, np.uint16).reshape(-1, plane.line_size // 2)
    return rows[: plane.height, : plane.width]


def whole_rows(plane: Plane) -> npt.NDArray[Any]:
    """Return a plane with its rows' padding: one unbroken block, as the loops want it."""
    if plane.flags.c_contiguous:
        return plane
    shape = (plane.shape[0], plane.strides[0] // plane.itemsize)
    return np.lib.stride_tricks.as_strided(plane, shape, plane.strides, writeable=False)


def planes_from(picture: VideoFrame, number: int) -> Frame:
    """Return a decoded picture's planes without copying; odd formats are converted first."""
    name = picture.format.name
    if name not in PLANAR:
        deep = any(part.bits > 8 for part in picture.format.components)
        name = "yuv444p12le" if deep else "yuv444p"
        picture = picture.reformat(format=name)
    depth = PLANAR[name]
    luma, cb, cr = (_plane(plane, depth) for plane in picture.planes[:3])
    return Frame(number=number, depth=depth, luma=luma, cb=cb, cr=cr)


def undecodable(why: str, path: Path) -> UnreadableFileError:
    """Return the error for a picture that no decoder takes."""
    return UnreadableFileError(
        f"The picture cannot be decoded ({why}). Play the file to its end in a decoder, or export "
        "it again.",
        code="undecodable",
        where=path.name,
    )


class Opened(NamedTuple):
    """A file open for decoding."""

    container: InputContainer
    stream: VideoStream

    @property
    def tick(self) -> Fraction:
        """Return the length of a tick in seconds."""
        return self.stream.time_base or Fraction(1, 90_000)


def open_picture(path: Path, *, threads: int = 0) -> Opened:
    """Return the file's first picture track; raises UnreadableFileError. threads: 0 = any."""
    try:
        # metadata_errors: text tags of damaged files are not always text.
        container = av.open(str(path), metadata_errors="replace")
        stream = container.streams.video[0]
    except (av.FFmpegError, OSError, IndexError) as error:
        raise undecodable(str(error), path) from error
    stream.thread_type = "AUTO"
    stream.codec_context.thread_count = threads
    return Opened(container, stream)


def count_pictures(path: Path) -> int | None:
    """Return how many coded pictures a file holds, without decoding; None where it can't be told.

    Every packet is read: for wrappers that keep no count.
    """
    try:
        opened = open_picture(path)
        with opened.container as container:
            return sum(1 for packet in container.demux(opened.stream) if packet.size) or None
    except (UnreadableFileError, av.FFmpegError, OSError):
        return None


class FrameReader:
    """Reads chosen frames of one file in rising order. Use as a context manager."""

    def __init__(
        self,
        path: Path,
        rate: Fraction,
        *,
        gap_s: float = SEEK_GAP_S,
        keys: Sequence[int] | None = None,
    ) -> None:
        """Open the file; raises UnreadableFileError where it cannot be decoded.

        gap_s: seconds up to which frames are decoded through instead of sought. keys: rising
        numbers of key frames, where known: then a frame is sought where one lies before it.
        """
        self._keys = keys
        self._gap_s = gap_s
        self._path = path
        self._rate = rate
        self.decoded = self.broken = 0
        self._is_spoilt = self._is_cut_off = False
        opened = open_picture(path)
        self._container, self._stream, self._base = opened.container, opened.stream, opened.tick
        self._start = self._stream.start_time or 0
        # A bare coded stream has no times: its pictures are numbered as they come, without seeks.
        self._untimed = self._stream.start_time is None
        self._order = 0

    def __enter__(self) -> "FrameReader":
        """Return the reader itself."""
        return self

    def __exit__(self, *_: object) -> None:
        """Close the file."""
        self._container.close()

    def read(self, numbers: Sequence[int]) -> Iterator[Frame]:
        """Yield the frames of these rising numbers; those past the end are left out.

        A frame is the one whose presentation time lies nearest to number ÷ rate. Raises
        UnreadableFileError where not one frame can be decoded.
        """
        wanted = iter(numbers)
        goal = next(wanted, None)
        if goal is None:
            return
        with closing(self._decode_from(goal, self._read_through(goal, numbers))) as pictures:
            source: Iterator[VideoFrame] = pictures
            last: tuple[int, VideoFrame] | None = None
            sought = goal  # each frame is sought once: behind the end lies nothing more
            while goal is not None:
                picture = next(source, None)
                if picture is None and self._is_cut_off:
                    # Sought and not there: times have a gap, and the nearest may lie behind it.
                    through = self._read_through(goal, numbers) if goal != sought else None
                    source, sought = self._decode_from(goal, through), goal
                    continue
                if picture is None:
                    break
                number = self._number(picture)
                if number < goal:
                    last = (number, picture)
                    far = self._is_far(number, goal)
                    if goal != sought and far and not self._untimed:
                        sought = goal
                        source = self._decode_from(goal, self._read_through(goal, numbers))
                    continue
                if last is not None and goal - last[0] < number - goal:
                    yield planes_from(last[1], goal)
                else:
                    yield planes_from(picture, goal)
                last = (number, picture)
                goal = next((item for item in wanted if item > number), None)
        if not self.decoded:
            raise undecodable("no frame came out", self._path)

    def _read_through(self, goal: int, numbers: Sequence[int]) -> int | None:
        """Return the last frame that is reached from a goal without seeking; None: read on."""
        if self._keys is None or self._untimed:
            return None
        at = bisect_left(numbers, goal)
        while at + 1 < len(numbers) and not self._is_far(numbers[at] + 1, numbers[at + 1]):
            at += 1
        return numbers[at]

    def _is_far(self, number: int, goal: int) -> bool:
        """Return whether a frame is reached sooner by seeking than by decoding on."""
        if self._keys is None:
            return goal - number > self._gap_s * self._rate
        at = bisect_right(self._keys, goal)
        return at > 0 and self._keys[at - 1] > number + 1

    def _number(self, picture: VideoFrame) -> int:
        if picture.pts is None and self._untimed:
            self._order += 1
            return self._order - 1
        pts = picture.pts if picture.pts is not None else self._start
        return round((pts - self._start) * self._base * self._rate)

    def _decode_from(
        self, goal: int, through: int | None = None
    ) -> Generator[VideoFrame, None, None]:
        """Yield pictures from a point at or before frame `goal`, to the end or through a frame."""
        if self._untimed or not self._is_far(-1, goal):
            if self._is_cut_off:
                self._container.seek(self._start, stream=self._stream, backward=True)
            yield from self._decode(through=through)
            return
        for back in SEEK_BACK_S:
            target = int((goal / self._rate - Fraction(back)) / self._base) + self._start
            self._container.seek(max(target, self._start), stream=self._stream, backward=True)
            first = next(pictures := self._decode(goal, through), None)
            if first is not None and self._number(first) <= goal:
                yield first
                yield from pictures
                return
        self._container.seek(self._start, stream=self._stream, backward=True)
        yield from self._decode(through=through)

    def _before(self, number: int) -> int:
        """Return a time between the frame of this number and the one before."""
        return self._start + int((number - Fraction(1, 2)) / self._rate / self._base)

    def _decode(self, goal: int | None = None, through: int | None = None) -> Iterator[VideoFrame]:
        """Yield every decodable picture; a damaged packet is passed over.

        goal: the first frame wanted. Where single frames are read, pictures before it that no
        other one needs are not decoded at all. through: the last one, behind which none is.
        """
        wanted = self._before(goal) if goal is not None and self._gap_s == 0 else None
        self._is_cut_off = through is not None
        end = self._before(through + 1) if through is not None else None
        packets = needed(self._container.demux(self._stream), end)
        is_over = False
        while not is_over:
            try:
                packet = next(packets, None)
                if packet is None and through is None:
                    return
                if packet is not None and wanted is not None and packet.pts is not None:
                    early = packet.pts < wanted and not packet.is_keyframe
                    self._stream.codec_context.skip_frame = "NONREF" if early else "DEFAULT"
                is_over = packet is None
                pictures = packet.decode() if packet else self._stream.codec_context.decode(None)
            except av.error.EOFError:
                return
            except (av.FFmpegError, OSError):
                self._is_spoilt = True
                if not self._skip_allowed():
                    return
                continue
            for picture in pictures:
                self.decoded += 1
                # Until a picture comes that needs no other, all that follows is spoilt too.
                spoils = bool(picture.is_corrupt)
                self._is_spoilt = spoils or (self._is_spoilt and not picture.key_frame)
                self.broken += self._is_spoilt
                if isinstance(picture, VideoFrame):
                    yield picture

    def _skip_allowed(self) -> bool:
        """Return whether yet another damaged packet may be passed over; bounds the loop."""
        self._damaged = getattr(self, "_damaged", 0) + 1
        return self._damaged <= 10_000
