"""ISO base media files (MP4, MOV, fragmented too): their index made to say what is wished."""

from .proof import prove
from .rewriting import rewritten

__all__ = ["prove", "rewritten"]
