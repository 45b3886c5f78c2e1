"""ISO base media files (MP4, MOV, fragmented too): their index made to say what is wished."""

from .entry import Context
from .proof import prove
from .rewriting import rewritten

__all__ = ["Context", "prove", "rewritten"]
