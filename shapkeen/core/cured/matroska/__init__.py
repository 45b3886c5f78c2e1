"""Matroska and WebM: their tracks made to say what is wished."""

from .proof import prove
from .rewriting import rewritten

__all__ = ["prove", "rewritten"]
