"""How fast this machine encodes: a trial on the master's own first frames."""

import io
import os
import time
from itertools import cycle, islice
from pathlib import Path

import av
from av.video.frame import VideoFrame
from av.video.stream import VideoStream

from ..errors import UnreadableFileError, UsageError

ENCODERS = {
    "h264": "libx264",
    "h265": "libx265",
    "av1": "libsvtav1",
    "vp9": "libvpx-vp9",
    "prores": "prores_ks",
    "vc3": "dnxhd",
}
TRIAL_FRAMES = 12
TRIAL_S = 3.0
MOST_FRAMES = 240
QUIET = {"libx265": {"x265-params": "log-level=error"}, "dnxhd": {"profile": "dnxhr_hq"}}


def measure_speed(
    path: Path, codec: str, raster: tuple[int, int], *, depth: int, bit_rate: int
) -> float:
    """Return how many picture samples a second an encoder takes, with its ordinary settings.

    path: a file whose first frames are scaled to raster and encoded again and again for about
    three seconds. Counts encoding alone, on all cores. Raises UnreadableFileError where there is
    nothing to decode, UsageError for a codec or raster that cannot be tried here.
    """
    name = ENCODERS.get(codec)
    if name is None:
        raise UsageError(f"No encoder for {codec} is at hand.", code="no-encoder", where=codec)
    kind = "yuv422p10le" if codec == "prores" else "yuv420p10le" if depth > 8 else "yuv420p"
    if codec == "vc3":
        kind = "yuv422p"
    frames = _frames(path, raster, kind)
    try:
        return _trial(name, frames, raster, kind, bit_rate)
    except av.FFmpegError as error:
        text = f"{name} does not take {raster[0]}×{raster[1]} samples: {error.strerror}."
        raise UsageError(text, code="not-encodable", where=codec) from error


def _frames(path: Path, raster: tuple[int, int], kind: str) -> list[VideoFrame]:
    try:
        with av.open(str(path)) as container:
            decoded = islice(container.decode(video=0), TRIAL_FRAMES)
            made = [frame.reformat(*raster, format=kind) for frame in decoded]
    except av.FFmpegError as error:
        raise UnreadableFileError(
            "The master's first frames cannot be decoded.", code="undecodable", where=path.name
        ) from error
    if not made:
        raise UnreadableFileError("The master has no frame.", code="no-frame", where=path.name)
    return made


def _trial(
    name: str, frames: list[VideoFrame], raster: tuple[int, int], kind: str, bit_rate: int
) -> float:
    with av.open(io.BytesIO(), "w", format="matroska") as container:
        stream = container.add_stream(name, rate=25, options=QUIET.get(name, {}))
        assert isinstance(stream, VideoStream)  # noqa: S101  (ENCODERS holds nothing else)
        stream.width, stream.height = raster
        stream.pix_fmt, stream.bit_rate = kind, bit_rate
        started, count = time.monotonic(), 0
        for frame in cycle(frames):
            frame.pts = count
            container.mux(stream.encode(frame))
            keep_usual_priority()
            count += 1
            if time.monotonic() - started > TRIAL_S or count == MOST_FRAMES:
                break
        container.mux(stream.encode(None))
        spent = time.monotonic() - started
    return raster[0] * raster[1] * count / spent


def keep_usual_priority() -> None:
    """Take back the real-time priority that an encoder gave the calling thread.

    The AV1 encoder does so where it is run as root, and leaves it: everything else would starve.
    """
    if hasattr(os, "sched_getscheduler") and os.sched_getscheduler(0) in (
        os.SCHED_FIFO,
        os.SCHED_RR,
    ):
        os.sched_setscheduler(0, os.SCHED_OTHER, os.sched_param(0))
