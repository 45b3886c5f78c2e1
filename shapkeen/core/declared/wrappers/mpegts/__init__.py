"""MPEG transport streams."""

from .reader import outline_mpegts, read_mpegts, starts_mpegts

__all__ = ["outline_mpegts", "read_mpegts", "starts_mpegts"]
