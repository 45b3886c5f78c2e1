"""The mastering display and the light level as ISO base media boxes and H.26x messages carry them.

Both take the same bytes: SMPTE ST 2086 (order green, blue, red; 0.00002 and 0.0001 cd/m²) and
CTA-861.3. Sources: ISO/IEC 14496-12 12.1.6; ITU-T H.265 D.2.28 and D.2.35.
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
CONTENT_LIGHT = Layout("content light level", fields(max_cll=16, max_fall=16), source="CTA-861.3")


def state_mastering_display(data: bytes) -> Iterator[tuple[str, TraitValue]]:
    """State the mastering display in xy and cd/m²; raises FieldError where it is cut short."""
    raw = MASTERING_DISPLAY.read(data)
    display: dict[str, TraitValue] = {
        colour: (round(raw[f"{colour}_x"] * 2e-5, 6), round(raw[f"{colour}_y"] * 2e-5, 6))
        for colour in ("red", "green", "blue", "white")
    }
    yield "mastering_display", display | {"max": raw["max"] / 10_000, "min": raw["min"] / 10_000}


def state_content_light(data: bytes) -> Iterator[tuple[str, TraitValue]]:
    """State MaxCLL and MaxFALL in cd/m²; raises FieldError where they are cut short."""
    yield "content_light", dict(CONTENT_LIGHT.read(data))
