"""What every wrapper reader gives back."""

from dataclasses import dataclass

from ...geometry.timecode import StartTimecode
from ..coded import CodedHeaders
from ..model import AudioTrack, Notice, VideoTrack, Witness


@dataclass(frozen=True, slots=True, kw_only=True)
class WrapperReading:
    """The wrapper's own words, and the coded headers it carries for the stream readers."""

    wrapper: str
    index_first: bool | None
    video: VideoTrack
    audio: tuple[AudioTrack, ...]
    witness: Witness
    coded: CodedHeaders
    notices: tuple[Notice, ...]
    timecode: StartTimecode | None = None
