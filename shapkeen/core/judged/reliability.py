"""How often causes are right: measured, never estimated from how clear the evidence looked.

Counted by `make reliability` on pictures, encoders and settings that nothing was tuned on
(docs/diagnosis.md, Reliability): how often a cause was named, and how often it was what had been
done. A cause that was named too seldom there has no confidence.
"""

from collections.abc import Mapping
from types import MappingProxyType

LEAST_NAMED = 8
"""With fewer cases a share says nothing."""
MEASURED: Mapping[str, tuple[int, int]] = MappingProxyType(
    {
        # cause: (named, of these rightly), on 2026-11-29
        "cropped": (9, 9),
        "detail-below-raster": (10, 9),
        "downscaled": (9, 9),
        "frames-dropped": (9, 9),
        "frames-repeated": (3, 3),
        "gamma-shifted": (24, 24),
        "gamut-converted": (22, 22),
        "highlights-clipped": (10, 10),
        "index-last": (9, 9),
        "letterboxed": (9, 9),
        "matrix-swapped": (7, 7),
        "mirrored": (9, 9),
        "oversharpened": (9, 9),
        "pillarboxed": (9, 9),
        "range-compressed": (15, 15),
        "range-expanded": (9, 9),
        "rate-changed": (9, 9),
        "rotated": (9, 9),
        "shifted": (9, 9),
        "softened": (8, 8),
        "stretched": (9, 9),
        "tag-missing": (9, 9),
        "tag-wrong": (9, 9),
        "tone-compressed": (6, 6),
        "transfer-converted": (15, 15),
        "trimmed": (9, 9),
        "upscale-nearest": (9, 9),
        "windowboxed": (9, 9),
    }
)


def confidence_of(cause: str) -> float | None:
    """Return the share of cases in which a cause, once named, is right; None where too few tell."""
    return share_right(MEASURED, cause)


def share_right(counted: Mapping[str, tuple[int, int]], cause: str) -> float | None:
    """Return the share of a cause that was right, of (told, of these rightly); None of too few.

    One case of each kind is added (Laplace's rule of succession): never having erred is no proof.
    """
    told, right = counted.get(cause, (0, 0))
    return round((right + 1) / (told + 2), 2) if told >= LEAST_NAMED else None
