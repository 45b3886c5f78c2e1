"""How each drawing is read: a short text that stands under it. By the name of the drawing."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Final

EXPLAINED: Final[Mapping[str, str]] = MappingProxyType(
    {
        "tone": (
            "Every small even place of the picture: its code in the expected picture across, "
            "what was delivered up. On the dashed diagonal nothing changed; the curve is the "
            "act that fits best."
        ),
        "wave": (
            "Luma from the left edge of the picture to the right; brighter is higher. Both "
            "pictures should have one shape at one height. Dashed lines: black and white of "
            "limited range."
        ),
        "light": (
            "How much of the film is at least so bright. The promised MaxCLL and the mastering "
            "peak are marked; light beyond them breaks a promise."
        ),
        "gamut": (
            "All colours of the film on the CIE 1931 diagram, over the triangles of BT.2020, P3"
            " and BT.709. A cloud that shrank into a smaller triangle was converted or cut."
        ),
        "vector": (
            "All colours by Cb and Cr; squares mark pure colours at three quarters. A wrong "
            "matrix turns the cloud, saturation widens it."
        ),
        "shape": (
            "The promised frame and the delivered one, as they are shown. The master's picture "
            "lies in both; the circle must stay round."
        ),
        "detail": (
            "How much of the master's structure came through, from coarse at the left to the "
            "finest at the right. A fall at the right is softness, a rise above the dashed line"
            " is sharpening."
        ),
        "sphere": (
            "The seam behind the viewer and both poles, enlarged. Edges that do not meet here "
            "are seen as a line or a star in a headset."
        ),
        "eyes": (
            "How far things lie before the screen (down) or behind it (up), from the nearest to"
            " the farthest, through the film. Outside the dashed zone eyes tire."
        ),
        "time": (
            "Each frame of the export beside the master's frame that it shows. A straight line "
            "is a frame for a frame; steps and gaps are repeated and dropped ones."
        ),
        "broken": ("Where frames cannot be decoded, or only with errors, through the film."),
        "sound": ("Loudness through the film, the export's over the master's; dashed: the target."),
        "sync": ("How far the sound lies from where it was, through the film; above is late."),
        "plan": (
            "The master within the planned frame: what is cut, what becomes bars, and what "
            "stays in the safe areas."
        ),
        "table": (
            "Across what comes in, up what the table makes of it. The diagonal changes nothing."
        ),
        "band": (
            "The whole film from left to right, each moment one column of its colours: the "
            "master above, the export below. Where they part, something happened."
        ),
        "thread": (
            "A trait's value from the promise through the master and both witnesses to the "
            "picture. A straight line was kept; a kink, a gap or dots show where it was bent, "
            "lost, or cannot be proven."
        ),
        "scopes": (
            "Waveforms have light up and the picture's width across; vectors have colour. "
            "Below, delivered code by expected code: off the diagonal something changed."
        ),
        "parallax": (
            "Bars say how much of the picture lies at which depth, before the screen at the left."
        ),
    }
)


def explained(name: str) -> str:
    """Return how a drawing is read; raises KeyError for one that there is not."""
    return EXPLAINED[name]
