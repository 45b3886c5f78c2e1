"""The elements that say something of the picture: ids by name, and their values' meanings.

Source: RFC 9559 section 5.1; code points: ITU-T H.273.
"""

EBML_HEADER, DOC_TYPE = 0x1A45DFA3, 0x4282
SEGMENT, SEEK_HEAD, INFO, TRACKS, CLUSTER = (
    0x18538067,
    0x114D9B74,
    0x1549A966,
    0x1654AE6B,
    0x1F43B675,
)
SEEK, SEEK_ID, SEEK_POSITION = 0x4DBB, 0x53AB, 0x53AC
TIMESTAMP_SCALE, DURATION = 0x2AD7B1, 0x4489
TRACK_ENTRY, TRACK_NUMBER, TRACK_TYPE, FLAG_ENABLED = 0xAE, 0xD7, 0x83, 0xB9
CODEC_ID, CODEC_PRIVATE, DEFAULT_DURATION = 0x86, 0x63A2, 0x23E383
VIDEO, AUDIO = 0xE0, 0xE1
SAMPLING_FREQUENCY, CHANNELS = 0xB5, 0x9F
BLOCK_ADDITION_MAPPING, ADDITION_TYPE = 0x41E4, 0x41E7
SIMPLE_BLOCK, BLOCK_GROUP, BLOCK = 0xA3, 0xA0, 0xA1
CUES, CUE_POINT, CUE_POSITIONS, CUE_TRACK, CUE_CLUSTER = 0x1C53BB6B, 0xBB, 0xB7, 0xF7, 0xF1
TAGS, TAG, TARGETS, TAG_TRACK_UID, SIMPLE_TAG = 0x1254C367, 0x7373, 0x63C0, 0x63C5, 0x67C8
LANGUAGE, LANGUAGE_BCP47 = 0x22B59C, 0x22B59D
TAG_NAME, TAG_TEXT, TRACK_UID = 0x45A3, 0x4487, 0x73C5
CONTENT_ENCODINGS, CONTENT_ENCODING, CONTENT_COMPRESSION = 0x6D80, 0x6240, 0x5034
COMPRESSION_ALGORITHM, COMPRESSION_SETTINGS, HEADER_STRIPPING = 0x4254, 0x4255, 3
LEVEL_ONE = frozenset({SEEK_HEAD, INFO, TRACKS, CLUSTER, 0x1C53BB6B, 0x1941A469, 0x1254C367})

PIXEL_WIDTH, PIXEL_HEIGHT = 0xB0, 0xBA
CROP_BOTTOM, CROP_TOP, CROP_LEFT, CROP_RIGHT = 0x54AA, 0x54BB, 0x54CC, 0x54DD
DISPLAY_WIDTH, DISPLAY_HEIGHT, DISPLAY_UNIT = 0x54B0, 0x54BA, 0x54B2
FLAG_INTERLACED, FIELD_ORDER, STEREO_MODE = 0x9A, 0x9D, 0x53B8
COLOUR, PROJECTION = 0x55B0, 0x7670

MATRIX, BITS, SUBSAMPLING_X, SUBSAMPLING_Y = 0x55B1, 0x55B2, 0x55B3, 0x55B4
SITING_X, SITING_Y, RANGE, TRANSFER, PRIMARIES = 0x55B7, 0x55B8, 0x55B9, 0x55BA, 0x55BB
MAX_CLL, MAX_FALL, MASTERING = 0x55BC, 0x55BD, 0x55D0
MASTERING_XY = {
    "red": (0x55D1, 0x55D2),
    "green": (0x55D3, 0x55D4),
    "blue": (0x55D5, 0x55D6),
    "white": (0x55D7, 0x55D8),
}
MASTERING_LIGHT = {"max": 0x55D9, "min": 0x55DA}
PROJECTION_TYPE, PROJECTION_PRIVATE = 0x7671, 0x7672
POSE = {"yaw": 0x7673, "pitch": 0x7674, "roll": 0x7675}

SAMPLES, CENTIMETRES, INCHES, ASPECT = 0, 1, 2, 3
VIDEO_TRACK, AUDIO_TRACK = 1, 2
RANGES = {1: "limited", 2: "full"}
# (ChromaSitingHorz, ChromaSitingVert) → H.273 Chroma420SampleLocType: 1 co-sited, 2 half.
SITINGS: dict[tuple[int | None, int | None], int] = {(1, 2): 0, (2, 2): 1, (1, 1): 2, (2, 1): 3}
PROGRESSIVE_FLAG, INTERLACED_FLAG = 2, 1
FIELD_ORDERS = {
    0: "progressive",
    1: "top-first",
    9: "top-first",
    6: "bottom-first",
    14: "bottom-first",
}
STEREO_MODES = {
    0: "mono",
    1: "left-right",
    2: "bottom-top",
    3: "top-bottom",
    11: "right-left",
    13: "frame-sequential",
    14: "frame-sequential",
}
PROJECTIONS = {0: "rectilinear", 1: "equirectangular", 2: "cubemap", 3: "mesh"}
VFW = "V_MS/VFW/FOURCC"
"""CodecPrivate holds AVI's picture format, with the four-character code in it."""
CODECS = {
    "V_MPEG4/ISO/AVC": "h264",
    "V_MPEGH/ISO/HEVC": "h265",
    "V_AV1": "av1",
    "V_VP9": "vp9",
    "V_VP8": "vp8",
    "V_PRORES": "prores",
    "V_MPEG2": "mpeg2",
    "V_MPEG4/ISO/ASP": "mpeg4",
    "V_FFV1": "ffv1",
}
SOUND_CODECS = {
    "A_AAC": "aac",
    "A_OPUS": "opus",
    "A_VORBIS": "vorbis",
    "A_FLAC": "flac",
    "A_AC3": "ac3",
    "A_EAC3": "eac3",
    "A_PCM/INT/LIT": "pcm_s16le",
    "A_PCM/INT/BIG": "pcm_s16be",
    "A_MPEG/L3": "mp3",
}
