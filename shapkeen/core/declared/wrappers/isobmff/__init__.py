"""ISO base media files: MP4, MOV, whole or fragmented. Source: ISO/IEC 14496-12."""

from .reader import read_isobmff, starts_isobmff

__all__ = ["read_isobmff", "starts_isobmff"]
