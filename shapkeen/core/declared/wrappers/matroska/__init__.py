"""Matroska and WebM. Sources: RFC 8794 (EBML), RFC 9559 (Matroska)."""

from .outline import outline_matroska
from .reader import read_matroska, starts_matroska

__all__ = ["outline_matroska", "read_matroska", "starts_matroska"]
