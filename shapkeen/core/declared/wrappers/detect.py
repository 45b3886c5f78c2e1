"""Tells wrappers apart by their first bytes and calls the reader of the one found."""

from collections.abc import Callable
from dataclasses import dataclass

from ..outline import Part
from ..window import Window
from .avi import outline_avi, read_avi, starts_avi
from .decoder import outline_other, read_other
from .flv import outline_flv, read_flv, starts_flv
from .isobmff import outline_isobmff, read_isobmff, starts_isobmff
from .matroska import outline_matroska, read_matroska, starts_matroska
from .model import WrapperReading
from .mpegts import outline_mpegts, read_mpegts, starts_mpegts
from .mxf import outline_mxf, read_mxf, starts_mxf
from .y4m import outline_y4m, read_y4m, starts_y4m

HEAD_BYTES = 2048
"""Enough for ten transport packets; every other wrapper shows in its first bytes."""


@dataclass(frozen=True, slots=True)
class Wrapper:
    """One wrapper: how it starts, what reads it, and what outlines it. A new one is one line."""

    starts: Callable[[bytes], bool]
    read: Callable[[Window], WrapperReading]
    outline: Callable[[Window], tuple[Part, ...]]


WRAPPERS = (
    Wrapper(starts_isobmff, read_isobmff, outline_isobmff),
    Wrapper(starts_matroska, read_matroska, outline_matroska),
    Wrapper(starts_mxf, read_mxf, outline_mxf),
    Wrapper(starts_avi, read_avi, outline_avi),
    Wrapper(starts_flv, read_flv, outline_flv),
    Wrapper(starts_y4m, read_y4m, outline_y4m),
    Wrapper(starts_mpegts, read_mpegts, outline_mpegts),
)
OTHER = Wrapper(lambda _: True, read_other, outline_other)


def _wrapper(window: Window) -> Wrapper:
    head = window.read(0, min(window.size, HEAD_BYTES))
    return next((wrapper for wrapper in WRAPPERS if wrapper.starts(head)), OTHER)


def read_wrapper(window: Window) -> WrapperReading:
    """Return what the wrapper says and the coded headers it carries.

    Raises UnreadableFileError where the bytes are no wrapper that is read.
    """
    return _wrapper(window).read(window)


def outline_wrapper(window: Window) -> tuple[Part, ...]:
    """Return the wrapper's parts and fields in file order; raises UnreadableFileError likewise."""
    return _wrapper(window).outline(window)
