"""What a file says about itself: two witnesses, wrapper and stream, kept apart."""

from .file import PICTURE_ENDINGS, declaration_within, fingerprint, read_declaration, read_outline
from .model import AudioTrack, Declaration, FileFacts, Notice, Said, TraitValue, VideoTrack, Witness
from .outline import FieldRead, FieldValue, Outline, Part

__all__ = [
    "PICTURE_ENDINGS",
    "AudioTrack",
    "Declaration",
    "FieldRead",
    "FieldValue",
    "FileFacts",
    "Notice",
    "Outline",
    "Part",
    "Said",
    "TraitValue",
    "VideoTrack",
    "Witness",
    "declaration_within",
    "fingerprint",
    "read_declaration",
    "read_outline",
]
