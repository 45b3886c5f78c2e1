"""What a file says about itself: two witnesses, wrapper and stream, kept apart."""

from .file import fingerprint, read_declaration
from .model import (
    AudioTrack,
    Declaration,
    FileFacts,
    Notice,
    Said,
    TraitValue,
    VideoTrack,
    Witness,
)

__all__ = [
    "AudioTrack",
    "Declaration",
    "FileFacts",
    "Notice",
    "Said",
    "TraitValue",
    "VideoTrack",
    "Witness",
    "fingerprint",
    "read_declaration",
]
