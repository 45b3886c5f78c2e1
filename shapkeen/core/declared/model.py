"""The nouns of this room: a declaration and its parts. Forms of values: docs/contract.md."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TypeAlias, Union

from ..geometry.timecode import StartTimecode

# Union, since a recursive alias with | would need Python 3.12.
TraitValue: TypeAlias = Union[  # noqa: UP007
    int,
    float,
    str,
    bool,
    tuple[int, ...],
    tuple[float, ...],
    Mapping[str, "TraitValue"],
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """One trait as one witness states it, with the exact place in the file.

    also: what the same field means by another published text, where two are in use.
    """

    value: TraitValue
    where: str
    also: TraitValue | None = None


Witness: TypeAlias = Mapping[str, Said]
"""Trait name → what this witness says; a trait on which it is silent is absent."""


@dataclass(frozen=True, slots=True)
class Notice:
    """Something odd in the file that stops nothing."""

    code: str
    text: str
    where: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class FileFacts:
    """The file as a whole. `index_first` is None where the wrapper has no such order.

    timecode: of the first frame; None where the wrapper states none.
    """

    name: str
    size_bytes: int
    wrapper: str
    index_first: bool | None = None
    timecode: StartTimecode | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class VideoTrack:
    """The picture track that is described; None means that nothing states it."""

    codec: str
    codec_tag: str
    profile: str | None = None
    level: str | None = None
    tier: str | None = None
    frame_count: int | None = None
    duration_s: float | None = None
    bit_rate: int | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class AudioTrack:
    """A sound track, in short. language: as the wrapper has it; None where it says none, or und."""

    codec: str
    sample_rate_hz: int | None = None
    channels: int | None = None
    bit_rate: int | None = None
    language: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Declaration:
    """All that the wrapper and the stream of one file say."""

    file: FileFacts
    video: VideoTrack
    wrapper: Witness
    stream: Witness
    audio: tuple[AudioTrack, ...] = ()
    notices: tuple[Notice, ...] = ()
