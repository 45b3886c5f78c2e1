"""Universal labels → code points and codecs.

Source: SMPTE ST 377-1, RP 224 and ST 2067-21, pairing with ITU-T H.273 as the reference's table has
it; essence codings from memory, checked against files of the FFmpeg multiplexer. Byte 7, the
register's version, is left out of every comparison, and the tables leave out what comes before it.
"""

PRIMARIES = {
    "0401010103010000": 6,
    "0401010103020000": 5,
    "0401010103030000": 1,
    "0401010103040000": 9,
    "0401010103050000": 10,
    "0401010103060000": 12,
    "0401010103080000": 10,
    "04010101030A0000": 11,
}
TRANSFERS = {
    "0401010101010000": 4,
    "0401010101020000": 1,
    "0401010101030000": 7,
    "0401010101040000": 1,
    "0401010101050000": 12,
    "0401010101060000": 8,
    "0401010101070000": 17,
    "0401010101080000": 11,
    "0401010101090000": 14,
    "04010101010A0000": 16,
    "04010101010B0000": 18,
}
MATRICES = {
    "0401010102010000": 5,
    "0401010102020000": 1,
    "0401010102030000": 7,
    "0401010102040000": 8,
    "0401010102050000": 0,
    "0401010102060000": 9,
}
CODINGS = (
    # start of PictureEssenceCoding behind the version byte → codec
    ("0401020201", "mpeg2"),
    ("040102020131", "h264"),
    ("040102020132", "h264"),
    ("040102020141", "h265"),
    ("0401020202", "dvvideo"),
    ("040102020301", "jpeg2000"),
    ("040102020306", "prores"),
    ("040102020309", "ffv1"),
    ("0401020271", "vc3"),
)
CONTAINERS = (
    # start of EssenceContainer behind the version byte → codec
    ("0D0103010204", "mpeg2"),
    ("0D0103010202", "dvvideo"),
    ("0D010301020C", "jpeg2000"),
    ("0D010301020F", "h264"),
    ("0D0103010210", "h264"),
    ("0D0103010211", "vc3"),
    ("0D010301021C", "prores"),
    ("0D0103010223", "ffv1"),
)
MPEG4_VISUAL = "04010202012"


def code_of(label: bytes, table: dict[str, int]) -> int | None:
    """Return the H.273 code of a label; None for one that is not in the table."""
    return table.get(label[8:].hex().upper())


def codec_of(coding: bytes, container: bytes) -> str | None:
    """Return the codec by the coding's label, else by the container's; the longest start wins."""
    for label, table in ((coding, CODINGS), (container, CONTAINERS)):
        text = label[8:].hex().upper()
        if text.startswith(MPEG4_VISUAL):
            return "mpeg4"
        found = [(len(start), codec) for start, codec in table if text.startswith(start)]
        if found:
            return max(found)[1]
    return None
