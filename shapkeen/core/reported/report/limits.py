"""Whence the limits come that figures are held against; the whole of it is docs/diagnosis.md."""

from typing import Final

OWN = "Shapkeen's own limit, measured on healthy exports (docs/diagnosis.md)"
PRACTICE = "common practice, no source"
SOURCES: Final = {
    "tone moved by": "healthy exports at CRF 14 to 24 leave at most 1 code (docs/diagnosis.md)",
    "area moved by": "SDR white belongs at 203 cd/m² in HDR, ITU-R BT.2408",
    "shown width ÷ promised width": f"1 % is visible on a circle: {PRACTICE}",
    "right eye behind left": f"left and right in sync to the frame: {PRACTICE}",
    "sound against picture": "ITU-R BT.1359-1: noticed from 45 ms early to 125 ms late",
    "loudness off by": "ITU-R BS.1770 loudness; tolerance by EBU R 128",
    "louder by": "ITU-R BS.1770 loudness; tolerance by EBU R 128",
    "range off by": "loudness range by EBU Tech 3342",
    "broken pictures": "a delivery decodes without an error",
    "frames missing, repeated or foreign": "as many frames as the master, in its order",
    "frames more or fewer": "as many frames as the master, in its order",
    "cut flat above": "the light that the master shows and the promise keeps (SMPTE ST 2084)",
}


def source_of(measure: str) -> str:
    """Return where the limit of a figure comes from."""
    return SOURCES.get(measure, OWN)
