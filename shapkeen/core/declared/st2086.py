"""The mastering display and the light level, in the two forms in which files carry them.

ISO base media boxes and H.26x messages: order green, blue, red; 0.00002 and 0.0001 cd/m² (ISO/IEC
14496-12 12.1.6; ITU-T H.265 D.2.28 and D.2.35). AV1 metadata and VP9 boxes: order red, green,
blue; 0.16 fixed point, light 24.8 and 18.14 (AV1 5.8.4; VP codec in ISOBMFF 1.0). The light level
(CTA-861.3) takes the same bytes in both.
"""

from collections.abc import Iterator

from .layout import Layout, fields
from .model import TraitValue

MASTERING_DISPLAY = Layout(
    "mastering display",
    fields(
        green_x=16,
        green_y=16,
        blue_x=16,
        blue_y=16,
        red_x=16,
        red_y=16,
        white_x=16,
        white_y=16,
        max=32,
        min=32,
    ),
    source="SMPTE ST 2086",
)
FIXED_POINT_DISPLAY = Layout(
    "mastering display, fixed point",
    fields(
        red_x=16,
        red_y=16,
        green_x=16,
        green_y=16,
        blue_x=16,
        blue_y=16,
        white_x=16,
        white_y=16,
        max=32,
        min=32,
    ),
    source="AV1 5.8.4; VP codec in ISOBMFF 1.0",
)
CONTENT_LIGHT = Layout("content light level", fields(max_cll=16, max_fall=16), source="CTA-861.3")


def state_mastering_display(data: bytes) -> Iterator[tuple[str, TraitValue]]:
    """State the mastering display in xy and cd/m²; raises FieldError where it is cut short."""
    raw = MASTERING_DISPLAY.read(data)
    display: dict[str, TraitValue] = {
        colour: (round(raw[f"{colour}_x"] * 2e-5, 6), round(raw[f"{colour}_y"] * 2e-5, 6))
        for colour in ("red", "green", "blue", "white")
    }
    yield "mastering_display", display | {"max": raw["max"] / 10_000, "min": raw["min"] / 10_000}


def state_fixed_point_display(data: bytes) -> Iterator[tuple[str, TraitValue]]:
    """State the mastering display of AV1 and VP9; raises FieldError where it is cut short."""
    raw = FIXED_POINT_DISPLAY.read(data)
    display: dict[str, TraitValue] = {
        colour: (round(raw[f"{colour}_x"] / 65536, 6), round(raw[f"{colour}_y"] / 65536, 6))
        for colour in ("red", "green", "blue", "white")
    }
    light = {"max": round(raw["max"] / 256, 4), "min": round(raw["min"] / 16384, 6)}
    yield "mastering_display", display | light


def state_content_light(data: bytes) -> Iterator[tuple[str, TraitValue]]:
    """State MaxCLL and MaxFALL in cd/m²; raises FieldError where they are cut short."""
    yield "content_light", dict(CONTENT_LIGHT.read(data))
