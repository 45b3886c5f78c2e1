"""FLV files."""

from .reader import outline_flv, read_flv, starts_flv

__all__ = ["outline_flv", "read_flv", "starts_flv"]
