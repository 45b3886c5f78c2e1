"""Whence the limits come that figures are held against, as core/judged/tolerances.py has them."""

from typing import Final

OWN = "Shapkeen's own limit; core/judged/tolerances.py says how it was found"
PRACTICE = "common practice, no source"
SOURCES: Final = {
    "tone moved by": "healthy exports at CRF 14 to 24 leave 0.5 to 1 code (docs/diagnosis.md)",
    "area moved by": "SDR white belongs at 203 cd/m² in HDR, ITU-R BT.2408",
    "cut flat above": "HDR's diffuse white, 203 cd/m² in ITU-R BT.2408, with a margin of ours",
    "shown width ÷ promised width": f"1 % is visible on a circle: {PRACTICE}",
    "right eye behind left": f"left and right in sync to the frame: {PRACTICE}",
    "sound against picture": "EBU R 37-2007 (from memory)",
    "loudness off by": "the promise's own, else EBU R 128-2020 off a target, ours off the master",
    "range off by": f"the promise's own, else 2 LU: {PRACTICE}",
    "broken pictures": "a delivery decodes without an error",
    "frames missing, repeated or foreign": "as many frames as the master, in its order",
    "frames more or fewer": "as many frames as the master, in its order",
}


def source_of(measure: str) -> str:
    """Return where the limit of a figure comes from."""
    return SOURCES.get(measure, OWN)
