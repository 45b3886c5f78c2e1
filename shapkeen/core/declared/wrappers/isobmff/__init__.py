"""ISO base media files: MP4, MOV, whole or fragmented. Source: ISO/IEC 14496-12."""

from .outline import outline_isobmff
from .reader import read_isobmff, starts_isobmff

__all__ = ["outline_isobmff", "read_isobmff", "starts_isobmff"]
