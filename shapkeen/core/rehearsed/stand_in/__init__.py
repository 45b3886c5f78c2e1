"""Stand-ins: simulated receiving services, each described by a JSON file that users can write."""

from .model import (
    TRAITS,
    Belief,
    Hdr,
    PictureChanges,
    Rung,
    Sdr,
    SoundWay,
    Stage,
    StandIn,
    Takes,
)
from .text import (
    read_stand_in_file,
    shipped_stand_ins,
    stand_in_from_json,
    stand_in_named,
    stand_in_to_json,
)

__all__ = [
    "TRAITS",
    "Belief",
    "Hdr",
    "PictureChanges",
    "Rung",
    "Sdr",
    "SoundWay",
    "Stage",
    "StandIn",
    "Takes",
    "read_stand_in_file",
    "shipped_stand_ins",
    "stand_in_from_json",
    "stand_in_named",
    "stand_in_to_json",
]
