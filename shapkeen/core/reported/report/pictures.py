"""The pair of pictures of a report's first page: master and export as viewers get them."""

from pathlib import Path

from ...colour.codepoints import HDR_TRANSFERS
from ...errors import CoreError
from ...judged import Comparison, plan_reading
from ...judged.geometry import aspect_of
from ...measured import Source
from ...rehearsed import display_words, displays_for
from ...rehearsed.stills import render_still
from .build import telling_moment
from .model import PicturePair

MOST = (960, 540)


def display_of(comparison: Comparison) -> tuple[str, str]:
    """Return the display that a report's pictures are simulated on, and what it is in words."""
    transfer = comparison.promise.value("transfer")
    display = displays_for(transfer)[0]
    return display, display_words(display, is_hdr=transfer in HDR_TRANSFERS)


def picture_pair(comparison: Comparison, master: Path, export: Path) -> PicturePair | None:
    """Return both files at the moment that shows most; None where neither can be drawn there."""
    moment = telling_moment(comparison)
    if moment is None:
        return None
    display, words = display_of(comparison)
    try:
        pngs = [
            render_still(
                Source(path, plan_reading(declared)),
                frame,
                display=display,
                aspect=aspect_of(declared),
                most=MOST,
            )
            for path, declared, frame in zip(
                (master, export), (comparison.master, comparison.export), moment, strict=True
            )
        ]
    except CoreError:
        return None
    return PicturePair(pngs[0], pngs[1], *moment, words)


def smaller(png: bytes, most: tuple[int, int] = MOST) -> bytes:
    """Return a PNG made to fit into a width and height, as it is where it fits already."""
    import cv2
    import numpy as np

    shown = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_COLOR)
    if shown is None:
        return png
    high, wide = shown.shape[:2]
    share = min(most[0] / wide, most[1] / high)
    if share >= 1:
        return png
    size = (max(round(wide * share), 1), max(round(high * share), 1))
    made = cv2.imencode(".png", cv2.resize(shown, size, interpolation=cv2.INTER_AREA))[1]
    return bytes(made.tobytes())
