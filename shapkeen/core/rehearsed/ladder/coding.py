"""Coding a rendition: the ordinary settings of encoders for a bit rate, as services use them."""

import os
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ...colour.coding import Coding
from ...cured.versions.encoders import SPEEDS, encoder_of
from ...cured.versions.spans import frame_of
from ...measured import Source
from ...measured.decoded.frames import Frame, FrameReader
from .through_service import Planes

KEYFRAMES_S = 2
MOST_OVER, BUFFER_S = 1.5, 2
"""The highest rate beside the mean one, and how many seconds of it a player holds."""
QUIET = "1"
"""Errors alone: this encoder is told so by the environment, and in no other way."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Settings:
    """How something is coded. codec: as encoders are named. bit_rate: bits a second."""

    codec: str
    bit_rate: int
    raster: tuple[int, int]
    rate: Fraction
    depth: int
    coding: Coding
    preset: str = "medium"

    @property
    def kind(self) -> str:
        """Return the libraries' name of the samples' format."""
        return "yuv420p" if self.depth == 8 else "yuv420p10le"

    @property
    def options(self) -> dict[str, str]:
        """Return the encoder's options, in the libraries' own words."""
        bits, group = self.bit_rate, max(round(KEYFRAMES_S * self.rate), 1)
        made = {"b": str(bits), "g": str(group)}
        limits = {"maxrate": str(round(bits * MOST_OVER)), "bufsize": str(bits * BUFFER_S)}
        if self.codec == "h264":
            return {**made, **limits, "preset": self.preset, "profile": "high"}
        if self.codec == "h265":
            return {**made, **limits, "preset": self.preset, "x265-params": "log-level=error"}
        if self.codec == "av1":
            speed = 12 - SPEEDS.index(self.preset)
            return {**made, "preset": str(speed)}
        speed = min(8 - SPEEDS.index(self.preset), 5)
        return {**made, "deadline": "good", "cpu-used": str(speed), "row-mt": "1"}


def frames_of(source: Source, numbers: Sequence[int]) -> Iterator[Frame]:
    """Yield decoded frames of these rising numbers; those past the end are left out."""
    with FrameReader(source.path, source.reading.rate) as reader:
        yield from reader.read(numbers)


class Coder:
    """Codes pictures into an MP4 file, which has its name only once it is whole. A context manager.

    Raises av.FFmpegError where the encoder refuses.
    """

    def __init__(self, settings: Settings, goal: Path) -> None:
        """Open the encoder."""
        encoder = encoder_of(settings.codec)
        assert encoder is not None  # noqa: S101  (stand_in/text.py lets no other through)
        os.environ.setdefault("SVT_LOG", QUIET)
        self.settings, self._goal, self._part = settings, goal, goal.with_suffix(".part")
        flags = {"movflags": "+write_colr"}
        self._container = av.open(str(self._part), "w", format="mp4", options=flags)
        stream = self._container.add_stream(encoder.library, settings.rate, settings.options)
        assert isinstance(stream, VideoStream)  # noqa: S101  (a video encoder)
        _describe(stream, settings)
        if encoder.tag:
            stream.codec_context.codec_tag = encoder.tag
        self._stream, self._count = stream, 0

    def add(self, planes: Planes) -> None:
        """Code one more picture."""
        picture: VideoFrame = frame_of(planes, self.settings.kind)
        picture.pts = self._count
        self._container.mux(self._stream.encode(picture))
        self._count += 1

    def __enter__(self) -> "Coder":
        """Return the coder itself."""
        return self

    def __exit__(self, kind: type[BaseException] | None, *_: object) -> None:
        """Finish the file; where something failed, it does not get its name."""
        if kind is None:
            self._container.mux(self._stream.encode(None))
        self._container.close()
        if kind is None:
            self._part.replace(self._goal)


def code(pictures: Iterator[Planes], settings: Settings, goal: Path) -> None:
    """Code pictures into a file; raises as Coder."""
    with Coder(settings, goal) as coder:
        for planes in pictures:
            coder.add(planes)


def _describe(stream: VideoStream, settings: Settings) -> None:
    stream.width, stream.height = settings.raster
    stream.pix_fmt = settings.kind
    context, coding = stream.codec_context, settings.coding
    # By frames: the usual way. Slices, the default here, cost likeness (0.007 SSIM of H.264).
    # H.264's encoder shares a limited rate among threads by who comes first: never the same twice.
    context.thread_count, context.thread_type = int(settings.codec == "h264"), "AUTO"
    context.color_primaries, context.color_trc = coding.primaries, coding.transfer
    context.colorspace, context.color_range = coding.matrix, 2 if coding.full_range else 1
