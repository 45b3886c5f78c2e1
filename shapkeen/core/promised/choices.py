"""What people choose from: for each trait its usual values in words, and the numbers of others.

Values are JSON texts, as files and forms carry them; a trait that stands nowhere here is asked for
in a promise file only.
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Final

from ..colour.codepoints import CHROMA_LOCATIONS, MATRICES, PRIMARIES, TRANSFERS

CORNER, CENTRED, EDGES = "corner", "centred", "edges"


@dataclass(frozen=True, slots=True)
class Choice:
    """The values of one trait that can be chosen. choices: JSON text → words.

    parts: numbers of a value that is typed, name → words; one of the name "" is the value itself.
    listed: whether the parts are a list in the trait's form, else an object; within: the key of an
    object that holds it. bounded: whether "at least" and "at most" make sense. drawn: how the parts
    are a rectangle of the picture, empty where they are none: CORNER (left, top, width, height),
    CENTRED (width, height, how far its middle is off), EDGES (what is left out at each side).
    """

    choices: Mapping[str, str]
    parts: Mapping[str, str] = field(default_factory=dict)
    listed: bool = False
    bounded: bool = False
    within: str = ""
    drawn: str = ""


def codes(names: Mapping[int, str]) -> dict[str, str]:
    """Return code points (ITU-T H.273) with their names."""
    return {str(code): f"{name} ({code})" for code, name in names.items()}


def words(**told: str) -> dict[str, str]:
    """Return words of a form with what they mean; underscores stand for hyphens."""
    return {json.dumps(value.replace("_", "-")): shown for value, shown in told.items()}


def _plain(*values: object) -> dict[str, str]:
    return {json.dumps(value): str(value) for value in values}


AS_MASTERED = {'"as mastered"': "as mastered"}
RATES: Final = {
    f"[{n}, {d}]": shown
    for n, d, shown in (
        (24000, 1001, "23.976"),
        (24, 1, "24"),
        (25, 1, "25"),
        (30000, 1001, "29.97"),
        (30, 1, "30"),
        (50, 1, "50"),
        (60000, 1001, "59.94"),
        (60, 1, "60"),
    )
}
"""Frames a second that deliveries are made in (ITU-R BT.2020 table 2, SMPTE ST 2036-1)."""
SIZE = {"w": "width", "h": "height"}

CHOICES: Final[Mapping[str, Choice]] = MappingProxyType(
    {
        "primaries": Choice(codes(PRIMARIES)),
        "transfer": Choice(codes(TRANSFERS)),
        "matrix": Choice(codes(MATRICES)),
        "alternative_transfer": Choice(codes(TRANSFERS)),
        "range": Choice(words(limited="limited", full="full")),
        "bit_depth": Choice(_plain(8, 10, 12, 16), bounded=True),
        "chroma": Choice({f'"{one}"': one for one in ("4:2:0", "4:2:2", "4:4:4")}, bounded=True),
        "content_light": Choice({}, {"max_cll": "MaxCLL", "max_fall": "MaxFALL"}),
        "chroma_location": Choice(codes(CHROMA_LOCATIONS)),
        "raster": Choice(
            {
                "[1280, 720]": "1280×720",
                "[1920, 1080]": "1920×1080",
                "[3840, 2160]": "3840×2160",
                "[4096, 2160]": "4096×2160",
            },
            SIZE,
            listed=True,
        ),
        "pixel_aspect": Choice({"[1, 1]": "1:1"}, {"h": "wide", "v": "high"}, listed=True),
        "display_size": Choice({}, SIZE, listed=True),
        "clean_aperture": Choice(
            {},
            {"width": "width", "height": "height", "h_offset": "right by", "v_offset": "down by"},
            drawn=CENTRED,
        ),
        "rotation": Choice({str(turn): f"{turn}°" for turn in (0, 90, 180, 270)}),
        "mirror": Choice({"true": "left and right exchanged"}),
        "scan": Choice(
            words(progressive="progressive", top_first="top first", bottom_first="bottom first")
        ),
        "framing": Choice(
            {'"whole"': "whole"},
            {"x": "left", "y": "top", "w": "width", "h": "height"},
            listed=True,
            within="crop",
            drawn=CORNER,
        ),
        "detail": Choice({**AS_MASTERED, **words(sharpened="sharpened on purpose")}),
        "projection": Choice(
            words(
                equirectangular="whole sphere",
                half_equirectangular="half sphere",
                cubemap="cube",
            )
        ),
        "projection_bounds": Choice(
            {}, {side: side for side in ("top", "bottom", "left", "right")}, drawn=EDGES
        ),
        "pose": Choice({}, {"yaw": "yaw", "pitch": "pitch", "roll": "roll"}),
        "stereo": Choice(
            words(
                left_right="left eye on the left",
                right_left="left eye on the right",
                top_bottom="left eye on top",
                bottom_top="left eye below",
                frame_sequential="eyes in turn",
                mono="one eye",
            )
        ),
        "frame_rate": Choice(RATES),
        "sound_channels": Choice({**AS_MASTERED, "1": "mono", "2": "stereo", "6": "5.1"}),
        "loudness": Choice(
            {**AS_MASTERED, "-23": "-23 (EBU R 128)", "-24": "-24 (ATSC A/85)"}, {"": "LUFS"}
        ),
        "true_peak": Choice({**AS_MASTERED, "-1": "-1", "-2": "-2"}, {"": "dBTP"}, bounded=True),
        "index_first": Choice({"true": "index to the front"}),
    }
)
