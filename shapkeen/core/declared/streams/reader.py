"""Reads a track's coded headers: from the configuration record and from the first samples.

`READERS` lists every codec whose headers are read; the stream of another one is silent.
"""

from collections.abc import Callable

from ..coded import CodedHeaders
from ..model import Notice
from .av1 import read_av1
from .ffv1 import read_ffv1
from .frames import FRAME_CODECS, read_frames
from .h26x import read_h26x
from .model import StreamReading
from .mpeg2 import read_mpeg2
from .mpeg4 import read_mpeg4

READERS: dict[str, Callable[[CodedHeaders], StreamReading]] = {
    "h264": read_h26x,
    "h265": read_h26x,
    "av1": read_av1,
    "mpeg2": read_mpeg2,
    "mpeg4": read_mpeg4,
    "ffv1": read_ffv1,
    **dict.fromkeys(FRAME_CODECS, read_frames),
}
UNCODED = "rawvideo"
"""Plain samples: there are no coded headers that could speak."""


def read_stream(coded: CodedHeaders) -> StreamReading:
    """Return what the coded headers say; nothing for a codec whose headers are not read.

    Raises UnreadableFileError where no header can be read.
    """
    reader = READERS.get(coded.codec)
    if coded.codec == UNCODED:
        return StreamReading(witness={})
    if reader is None:
        text = f"The coded headers of {coded.codec} are not read; only the wrapper speaks."
        return StreamReading(witness={}, notices=(Notice("stream-not-read", text, "stream"),))
    return reader(coded)
