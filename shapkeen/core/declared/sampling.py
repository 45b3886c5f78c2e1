"""Chroma sampling in words, from the two ways in which formats number it."""

CHROMA_FORMATS = {0: "4:0:0", 1: "4:2:0", 2: "4:2:2", 3: "4:4:4"}
"""chroma_format_idc. Source: H.264 table 6-1, H.265 table 6-1."""

SUBSAMPLINGS: dict[tuple[int | None, int | None], str] = {
    (1, 1): "4:2:0",
    (1, 0): "4:2:2",
    (0, 0): "4:4:4",
}
"""Whether chroma is halved across and down. Source: AV1 specification 5.5.2, VP9 7.2.2."""
