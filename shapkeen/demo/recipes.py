"""How the demo's files are coded."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from fractions import Fraction


@dataclass(frozen=True, kw_only=True)
class Recipe:
    """How to encode: codec, options, colour codes for the wrapper, shape and rate.

    layout: what the wrapper says of sphere and eyes (flags.py).
    """

    codec: str
    options: Mapping[str, str]
    colour: tuple[int, int, int, int] | None
    rate: Fraction = Fraction(24)
    pixel_aspect: Fraction | None = None
    depth: int = 10
    index_first: bool = True
    extra: Mapping[str, str] = field(default_factory=dict)
    layout: Mapping[str, str] = field(default_factory=dict)


SQUEEZE = Fraction(4, 3)
X265 = (
    "log-level=error:hdr10=1:repeat-headers=1:colorprim=bt2020:transfer=smpte2084:"
    "colormatrix=bt2020nc:range=limited"
)
# P3-D65 primaries, 1000 cd/m² peak, 0.005 cd/m² black.
MASTERED_ON = (
    ":master-display=G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)"
)
HDR = Recipe(
    codec="libx265",
    options={
        "preset": "ultrafast",
        "crf": "16",
        "x265-params": f"{X265}{MASTERED_ON}:max-cll=900,20",
    },
    colour=(9, 16, 9, 1),
)
HLG = Recipe(
    codec="libx265",
    options={
        "preset": "ultrafast",
        "crf": "16",
        "x265-params": X265.replace("smpte2084", "arib-std-b67").replace(":hdr10=1", ""),
    },
    colour=(9, 18, 9, 1),
)
# A service that wants PQ from an HLG master, by the BT.2100 conversion for 1000 cd/m².
WANTS_PQ = {"transfer": 16}
AS_PQ = replace(HDR, options={**HDR.options, "x265-params": X265})
SDR = Recipe(
    codec="libx264",
    options={"preset": "veryfast", "crf": "16"},
    colour=(1, 1, 1, 1),
    pixel_aspect=SQUEEZE,
    depth=8,
)
PLAIN = replace(SDR, pixel_aspect=None)
SPHERE = replace(PLAIN, layout={"projection": "equirectangular"})
EYES = replace(
    PLAIN,
    options={**PLAIN.options, "x264-params": "frame-packing=3"},
    layout={"stereo": "left-right"},
)


def with_options(recipe: Recipe, **options: str) -> Recipe:
    """Return a recipe with other options of its codec."""
    return replace(recipe, options={**recipe.options, **options})
