"""Names of H.273 code points, as shown to people. Source: ITU-T H.273 tables 2 to 4."""

UNSPECIFIED = 2

PRIMARIES = {
    1: "BT.709",
    2: "unspecified",
    4: "BT.470 M",
    5: "BT.601 625",
    6: "BT.601 525",
    7: "ST 240",
    8: "film",
    9: "BT.2020",
    10: "XYZ",
    11: "DCI-P3",
    12: "P3-D65",
    22: "H.273 code 22",
}
TRANSFERS = {
    1: "BT.709",
    2: "unspecified",
    4: "gamma 2.2",
    5: "gamma 2.8",
    6: "BT.601",
    7: "ST 240",
    8: "linear",
    9: "log 100:1",
    10: "log 316:1",
    11: "xvYCC",
    12: "BT.1361",
    13: "sRGB",
    14: "BT.2020 10-bit",
    15: "BT.2020 12-bit",
    16: "PQ",
    17: "ST 428-1",
    18: "HLG",
}
MATRICES = {
    0: "identity",
    1: "BT.709",
    2: "unspecified",
    4: "FCC",
    5: "BT.601 625",
    6: "BT.601 525",
    7: "ST 240",
    8: "YCgCo",
    9: "BT.2020 NCL",
    10: "BT.2020 CL",
    11: "ST 2085",
    12: "derived NCL",
    13: "derived CL",
    14: "ICtCp",
}
CHROMA_LOCATIONS = {
    0: "left",
    1: "centre",
    2: "top left",
    3: "top",
    4: "bottom left",
    5: "bottom",
}
PQ, HLG = 16, 18
HDR_TRANSFERS = frozenset({PQ, HLG})
# Different numbers, the same curve or matrix: H.273 table 3 (1, 6, 14, 15) and table 4 (5, 6);
# table 2 gives 6 and 7 the same chromaticities.
SAME_TRANSFER = frozenset({1, 6, 14, 15})
SAME_MATRIX = frozenset({5, 6})
SAME_PRIMARIES = frozenset({6, 7})
EQUIVALENT = {"transfer": SAME_TRANSFER, "matrix": SAME_MATRIX, "primaries": SAME_PRIMARIES}


def mean_the_same(trait: str, one: object, other: object) -> bool:
    """Return whether two code points of a trait stand for the same thing."""
    group = EQUIVALENT.get(trait)
    return one == other or (group is not None and one in group and other in group)
