"""What a wrapper hands to the stream readers: coded headers as bytes, unread.

This is the one thing that passes between the witnesses' readers, so that the wrapper reader
never looks into coded headers and the stream readers never at boxes.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class HeaderUnit:
    """One coded unit (a NAL unit, say) and where it was found."""

    data: bytes
    where: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CodedHeaders:
    """The coded headers of one picture track.

    codec: contract name (h264, h265 …). config: units stored in the configuration record.
    samples: the first bytes of a few samples, each a run of length-prefixed units of
    `length_bytes` (1, 2 or 4) and possibly cut off.
    """

    codec: str
    length_bytes: int
    config: tuple[HeaderUnit, ...]
    samples: tuple[HeaderUnit, ...]
