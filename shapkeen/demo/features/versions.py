"""Recipes that the demo's titles come with: every kind of version, made from the masters."""

from collections.abc import Iterator, Mapping
from typing import Any

JsonObject = dict[str, Any]


def _recipe(name: str, codec: str, wrapper: str = "mp4", /, **more: Any) -> JsonObject:
    coding = {"codec": codec, "preset": "veryfast", **more.pop("coding", {})}
    return {
        "schema": "shapkeen.recipe/1",
        "name": name,
        "coding": coding,
        "wrapper": wrapper,
        **more,
    }


def _promised(**traits: Any) -> JsonObject:
    return {"promise": {name: {"value": value} for name, value in traits.items()}}


def _bars(crop: tuple[int, int, int, int], top: int) -> JsonObject:
    return {"crop": list(crop), "bars": {"top": top, "bottom": top, "left": 0, "right": 0}}


SDR: JsonObject = {
    "promise": {
        "transfer": {"value": 1, "from": 16},
        "primaries": {"value": 1, "from": 9},
        "matrix": {"value": 1, "from": 9},
    }
}
PACKED: tuple[tuple[str, JsonObject], ...] = (
    ("side by side", {}),
    ("side by side, half", _promised(stereo="left-right", raster=[640, 360])),
    ("top and bottom", _promised(stereo="top-bottom", raster=[640, 720])),
    ("one eye", _promised(stereo="mono", raster=[640, 360])),
)
DOMES = ([1280, 640], [1024, 512], [768, 384])

RECIPES: Mapping[str, tuple[JsonObject, ...]] = {
    "The Orrery Keeper": (
        _recipe("Harbourlight, made here", "h265"),
        _recipe("Ferry screens", "av1", "webm"),
        _recipe("Mole, plain screens", "h264", **SDR),
        _recipe(
            "Review copy",
            "h264",
            burn_in={"timecode": True, "text": "The Orrery Keeper, for review"},
            **SDR,
        ),
        _recipe("Vault mezzanine", "prores", "mov", coding={"profile": "422 HQ"}),
        _recipe("Teaser, first second", "h265", **{"in": 0, "out": 24}),
    ),
    "The Orrery Keeper: ticking cut": (
        _recipe(
            "Phone copy",
            "h264",
            sound={"codec": "aac", "bit_rate": 192_000, "loudness_lufs": -18.0},
            file="{name} {width}x{height}",
        ),
        _recipe(
            "Cuttings",
            "h264",
            sound={"codec": "aac"},
            clips=[
                {"name": "first strokes", "in": 0, "out": 96},
                {"name": "last stroke", "in": 144, "out": 192},
            ],
        ),
        _recipe("Gallery, one channel", "h265", sound={"codec": "aac", "channels": 1}),
        _recipe("Silent loop", "av1", sound="none"),
    ),
    "The Orrery Keeper: scope trailer": (
        _recipe("Square samples", "h264", **_promised(raster=[1280, 540], pixel_aspect=[1, 1])),
    ),
    "The Orrery Keeper: wide cut": (
        _recipe("Upright", "h264", **_promised(raster=[720, 900])),
        _recipe("Square", "h264", **_promised(raster=[720, 720])),
        _recipe(
            "Wide, with bars",
            "h264",
            **_promised(raster=[960, 540], framing=_bars((0, 0, 960, 400), 70)),
        ),
    ),
    "The Orrery Keeper: gear trains in depth": tuple(
        _recipe(f"Two eyes, {name}" if name != "one eye" else "One eye", "h264", **asked)
        for name, asked in PACKED
    ),
    "The Orrery Keeper: observing room": tuple(
        _recipe(f"Dome, {size[0]} wide", "h265", **_promised(raster=size)) for size in DOMES
    ),
}


def recipes_of(title: str) -> Iterator[JsonObject]:
    """Yield the recipes that a title of the demo comes with."""
    yield from RECIPES.get(title, ())
