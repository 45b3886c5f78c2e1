"""Matroska and WebM. Sources: RFC 8794 (EBML), RFC 9559 (Matroska)."""

from .reader import read_matroska, starts_matroska

__all__ = ["read_matroska", "starts_matroska"]
