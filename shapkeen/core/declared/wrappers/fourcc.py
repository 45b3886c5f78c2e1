"""Four-character codes of codecs, as AVI, MOV and FLV write them → the contract's codec names.

Those not listed are left to the general decoder, which knows hundreds.
"""

CODECS = {
    "avc1": "h264",
    "avc3": "h264",
    "h264": "h264",
    "x264": "h264",
    "hvc1": "h265",
    "hev1": "h265",
    "hevc": "h265",
    "h265": "h265",
    "av01": "av1",
    "vp08": "vp8",
    "vp80": "vp8",
    "vp09": "vp9",
    "vp90": "vp9",
    "mp4v": "mpeg4",
    "fmp4": "mpeg4",
    "mpg2": "mpeg2",
    "m2v1": "mpeg2",
    "avdn": "vc3",
    "avdh": "vc3",
    "apco": "prores",
    "apcs": "prores",
    "apcn": "prores",
    "apch": "prores",
    "ap4h": "prores",
    "ap4x": "prores",
    "ffv1": "ffv1",
    "hfyu": "huffyuv",
    "mjpg": "mjpeg",
}


def codec_of(code: str) -> str | None:
    """Return the codec of a four-character code, whatever its case; None where it is not listed."""
    return CODECS.get(code.lower())
