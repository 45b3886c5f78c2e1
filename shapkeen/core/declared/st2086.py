"""The mastering display and the light level, in the two forms in which files carry them.

ISO base media boxes and H.26x messages: order green, blue, red; 0.00002 and 0.0001 cd/m² (ISO/IEC
14496-12 12.1.6; ITU-T H.265 D.2.28 and D.2.35). AV1 metadata and VP9 boxes: order red, green,
blue; 0.16 fixed point, light 24.8 and 18.14 (AV1 5.8.4; VP codec in ISOBMFF 1.0). The light level
(CTA-861.3) takes the same bytes in both. The ambient light (H.265 D.2.39, `amve`) has no trait.
"""

from collections.abc import Iterator, Mapping

from .layout import Layout, fields
from .model import TraitValue

_WHITE_AND_LIGHT = fields(white_x=16, white_y=16, max=32, min=32)
MASTERING_DISPLAY = Layout(
    "mastering display",
    (
        *fields(green_x=16, green_y=16, blue_x=16, blue_y=16, red_x=16, red_y=16),
        *_WHITE_AND_LIGHT,
    ),
    source="SMPTE ST 2086",
)
FIXED_POINT_DISPLAY = Layout(
    "mastering display, fixed point",
    (
        *fields(red_x=16, red_y=16, green_x=16, green_y=16, blue_x=16, blue_y=16),
        *_WHITE_AND_LIGHT,
    ),
    source="AV1 5.8.4; VP codec in ISOBMFF 1.0",
)
CONTENT_LIGHT = Layout("content light level", fields(max_cll=16, max_fall=16), source="CTA-861.3")
AMBIENT = Layout(
    "ambient viewing environment",
    fields(ambient_illuminance=32, ambient_light_x=16, ambient_light_y=16),
    source="H.265 D.2.39: 0.0001 lx, 0.00002",
)


def mastering_display(raw: Mapping[str, int]) -> Iterator[tuple[str, TraitValue]]:
    """State the mastering display in xy and cd/m² from the fields of MASTERING_DISPLAY."""
    yield (
        "mastering_display",
        _display(raw, 2e-5)
        | {
            "max": raw["max"] / 10_000,
            "min": raw["min"] / 10_000,
        },
    )


def fixed_point_display(raw: Mapping[str, int]) -> Iterator[tuple[str, TraitValue]]:
    """State the mastering display of AV1 and VP9 from the fields of FIXED_POINT_DISPLAY."""
    yield (
        "mastering_display",
        _display(raw, 1 / 65536)
        | {
            "max": round(raw["max"] / 256, 4),
            "min": round(raw["min"] / 16384, 6),
        },
    )


def _display(raw: Mapping[str, int], step: float) -> dict[str, TraitValue]:
    return {
        colour: (round(raw[f"{colour}_x"] * step, 6), round(raw[f"{colour}_y"] * step, 6))
        for colour in ("red", "green", "blue", "white")
    }


def content_light(raw: Mapping[str, int]) -> Iterator[tuple[str, TraitValue]]:
    """State MaxCLL and MaxFALL in cd/m² from the fields of CONTENT_LIGHT."""
    yield "content_light", {name: raw[name] for name in ("max_cll", "max_fall")}
