"""Why a witness does not say what was asked for, in words for the page and the command line."""

from ..declared import Declaration
from .wishes import COLOUR_CODES, SAYABLE

STREAM_HAS = {
    "h264": frozenset({*COLOUR_CODES, "range", "pixel_aspect", "chroma_location"}),
    "h265": frozenset({*COLOUR_CODES, "range", "pixel_aspect", "chroma_location"}),
    "mpeg2": frozenset({*COLOUR_CODES, "pixel_aspect"}),
    "vc3": frozenset({"matrix"}),
    "prores": frozenset({*COLOUR_CODES}),
    "vp9": frozenset({"matrix", "range"}),
    "av1": frozenset({*COLOUR_CODES, "range", "chroma_location"}),
}
"""Codec → traits that this version writes into its coded headers."""
NAMES = {
    "h264": "H.264",
    "h265": "H.265",
    "av1": "AV1",
    "vp9": "VP9",
    "prores": "ProRes",
    "mpeg2": "MPEG-2",
    "vc3": "VC-3",
}
FIELD_NEEDED = frozenset({"mpeg2", "vc3"})
"""Codecs whose headers hold these traits only where, and as, their encoder made room."""
WRITTEN = frozenset({"mp4", "mov", "matroska", "webm"})


def reason(declaration: Declaration, witness: str, trait: str) -> str:
    """Return why a witness of a file does not say a trait as wished."""
    if trait not in SAYABLE:
        return "It is made by coding, and no tag can change it."
    if witness == "wrapper":
        if declaration.file.wrapper not in WRITTEN:
            return "Its wrapper is not one that corrected copies are written of."
        if trait == "range" and declaration.file.wrapper == "mov":
            return "The colour atom of this file (nclc) has no place for a range."
        return "Its wrapper has no place for it."
    codec = declaration.video.codec
    name = NAMES.get(codec, codec)
    if trait in STREAM_HAS.get(codec, frozenset()):
        if codec in FIELD_NEEDED:
            return f"Its {name} headers have no field for this value."
        return f"Its {name} headers say otherwise in places that could not be rewritten."
    return f"{name} headers are not rewritten for it, or have no place for it."
