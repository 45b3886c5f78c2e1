"""ISO base media files (MP4, MOV, fragmented too): their index made to say what is wished."""

from .entry import Beside
from .proof import prove
from .rewriting import rewritten

__all__ = ["Beside", "prove", "rewritten"]
