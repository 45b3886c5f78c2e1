"""Plain words for parts and fields: what each does to the picture that viewers see.

Names are those of the standards, so that one entry serves every format that uses the name. A new
part or field is one line here.
"""

import re
from fnmatch import fnmatchcase

from ...colour.codepoints import CHROMA_LOCATIONS, MATRICES, PRIMARIES, TRANSFERS
from ...declared import FieldValue

COLOUR_WORDS = "Which red, green and blue, which tone curve and which luma matrix are meant."
PARTS = {
    # ISO base media
    "ftyp": "The kind of file, by its brands. Players refuse kinds that they do not know.",
    "moov": "The index: without it no picture can be found.",
    "mdat": "Coded pictures and sound; not looked into here.",
    "free": "Room to spare.",
    "mvhd": "Time scale and length of the whole.",
    "trak": "One track.",
    "tkhd": "Turn, mirror and shown size of the track.",
    "edts": "Which part of the track is shown, and when.",
    "elst": "Trims and delays the track without touching its samples.",
    "mdia": "What kind of track it is, and its samples.",
    "mdhd": "The track's own clock.",
    "hdlr": "Whether this is picture, sound or text.",
    "minf": "What the track's samples are, and where.",
    "vmhd": "That the samples are pictures.",
    "smhd": "That the samples are sound.",
    "dinf": "Whether the samples lie in this file.",
    "avc1": "H.264 pictures: size, and what follows.",
    "avc3": "H.264 pictures: size, and what follows.",
    "hvc1": "H.265 pictures: size, and what follows.",
    "hev1": "H.265 pictures: size, and what follows.",
    "av01": "AV1 pictures: size, and what follows.",
    "vp09": "VP9 pictures: size, and what follows.",
    "mp4v": "MPEG-4 or MPEG-2 pictures: size, and what follows.",
    "stbl": "Where the samples lie, how long and how heavy they are.",
    "stsd": "How the samples are coded.",
    "colr": COLOUR_WORDS + " Players obey it before the stream, or the stream before it.",
    "pasp": "How wide each sample is shown. Lost, and circles become eggs.",
    "clap": "The part of the picture that is meant to be seen.",
    "fiel": "Whether each picture is one frame or two fields, and which comes first.",
    "gama": "An old single gamma; few players obey it.",
    "mdcv": "The screen on which the picture was judged; displays fit the picture to it.",
    "clli": "The brightest sample and the brightest frame average.",
    "amve": "The light of the room in which the picture was judged.",
    "btrt": "Bit rates by which players set aside room.",
    "st3d": "How two eyes are packed. Lost, and both are shown side by side to each eye.",
    "sv3d": "That the picture is a sphere, and how it is laid out flat.",
    "svhd": "Who wrote the spherical description.",
    "prhd": "Where the sphere looks at first.",
    "equi": "That the sphere is laid out by longitude and latitude, and what is cut off.",
    "cbmp": "That the sphere is laid out on a cube's six sides.",
    "mshp": "That the sphere is laid out by a mesh of its own.",
    "vexu": "Eyes and projection as newer players read them.",
    "stri": "Which eyes are there.",
    "prji": "How the picture is projected.",
    "pkin": "How two eyes are packed into one picture.",
    "uuid": "A private box; the spherical description of version 1 is one.",
    "dvcC": "That scene by scene HDR metadata goes with the picture.",
    "dvvC": "That scene by scene HDR metadata goes with the picture.",
    "avcC": "H.264 configuration: decoders start from it.",
    "hvcC": "H.265 configuration: decoders start from it.",
    "av1C": "AV1 configuration: decoders start from it.",
    "vpcC": "VP8 or VP9 configuration, with the colour that the stream cannot state.",
    "SmDm": "The screen on which the picture was judged.",
    "CoLL": "The brightest sample and the brightest frame average.",
    "esds": "MPEG-4 configuration: decoders start from it.",
    "stts": "How long each picture is shown: one entry means a constant rate.",
    "ctts": "By how much the shown order differs from the coded one.",
    "stss": "At which pictures decoding can start.",
    "stsc": "How samples are gathered into chunks.",
    "stsz": "How heavy each sample is.",
    "stco": "Where each chunk lies.",
    "co64": "Where each chunk lies, in files over 4 GB.",
    "mvex": "That the samples come in fragments.",
    "trex": "What holds for fragments that say nothing else.",
    "moof": "The index of one fragment.",
    "traf": "One track's part of a fragment.",
    "trun": "The samples of a fragment.",
    "sidx": "An index of fragments, for streaming.",
    "udta": "Names and notes.",
    "meta": "Names and notes.",
    # Matroska
    "EBML": "The kind of file and the version needed to read it.",
    "Segment": "All that the file holds.",
    "SeekHead": "Where the other parts stand.",
    "Info": "Time scale, length, and who wrote the file.",
    "Tracks": "The tracks and how they are coded.",
    "TrackEntry": "One track.",
    "Video": "Size, crop, shape, fields and eyes of the picture.",
    "Colour": COLOUR_WORDS,
    "MasteringMetadata": "The screen on which the picture was judged.",
    "Projection": "That the picture is a sphere, how it is laid out and where it looks.",
    "Audio": "The sound's rate and channels.",
    "Cluster": "Coded pictures and sound; not looked into here.",
    "Cues": "Where decoding can start.",
    "Tags": "Names, notes and statistics.",
    "BlockAdditionMapping": "What goes with each picture beside it.",
    # MXF
    "header partition": "The first part of the file, with the description of all in it.",
    "body partition": "A part that holds pictures and sound.",
    "footer partition": "The last part, often with the index.",
    "primer pack": "What this file's own short tags stand for.",
    "CDCI picture descriptor": "Size, shape, fields, sampling and colour of the picture.",
    "RGBA picture descriptor": "Size, shape, fields and colour of the picture.",
    "MPEG video descriptor": "Size, shape, fields, sampling and colour of the picture.",
    "generic sound descriptor": "The sound's rate and channels.",
    "wave sound descriptor": "The sound's rate and channels.",
    "preface": "What the whole file is built by.",
    "identification": "Who wrote the file.",
    "content storage": "What packages there are.",
    "material package": "The picture as it is to be played.",
    "source package": "The picture as it is stored.",
    "timeline track": "One track of a package.",
    "sequence": "How long a track lasts.",
    "source clip": "Which stored part a track plays.",
    "timecode component": "The time code with which a track begins.",
    "essence container data": "Where the stored pictures are.",
    "packets": "How the stream is cut into packets.",
    "picture essence": "Coded pictures; not looked into here.",
    # AVI, FLV, transport stream, Y4M
    "avih": "Size and rate of the whole.",
    "strl": "One stream.",
    "strh": "The stream's kind and rate.",
    "strf": "Size and coding of the picture, or rate and channels of the sound.",
    "vprp": "The picture's shape and fields.",
    "movi": "Coded pictures and sound; not looked into here.",
    "idx1": "Where each frame lies.",
    "AVI": "All that the file holds.",
    "hdrl": "The headers.",
    "JUNK": "Room to spare.",
    "header": "The kind of file.",
    "picture": "One coded picture, or what decoders start from.",
    "sound": "Coded sound.",
    "script data": "What the writer noted: size, rate, length.",
    "elementary stream": "One stream of the programme, with its descriptors.",
    "header line": "All that this file can say stands in one line.",
    # Streams
    "VPS": "Layers and timing of the whole stream.",
    "SPS": "Size, depth, colour and shape: what every decoder obeys.",
    "subset SPS": "That a second view is coded beside the first.",
    "slice header": "How the first picture is coded.",
    "SEI 1 picture timing": "Whether the picture is shown as a frame or as fields.",
    "SEI 4 T.35": "Scene by scene HDR metadata, or captions.",
    "SEI 5 user data": "What the encoder noted of itself.",
    "SEI 45 frame packing": "How two eyes are packed.",
    "SEI 137 mastering display": "The screen on which the picture was judged.",
    "SEI 144 content light": "The brightest sample and the brightest frame average.",
    "SEI 147 alternative transfer": "That newer players should read the tone as HLG.",
    "SEI 148 ambient viewing": "The light of the room in which the picture was judged.",
    "SEI 150 equirectangular": "That the picture is a sphere by longitude and latitude.",
    "SEI 151 cubemap": "That the picture is a sphere on a cube's sides.",
    "SEI 154 sphere rotation": "Where the sphere looks at first.",
    "sequence header": "Size, depth, colour and shape: what every decoder obeys.",
    "sequence extension": "Profile, sampling and whether all frames are progressive.",
    "sequence display extension": "Colour, and the part of the picture that is meant to be seen.",
    "picture coding extension": "Whether this picture is a frame or a field, and the order.",
    "metadata": "Light level, mastering display or dynamic HDR.",
    "frame header": "Size, sampling and colour, stated again with each frame.",
    "uncompressed header": "Size, depth and sampling, stated again with each key frame.",
    "visual object": "Colour and range.",
    "video object layer": "Size, shape, rate and fields.",
    "configuration record": "Depth and sampling.",
}
OPEN_PARTS = frozenset(
    {
        *("colr", "pasp", "clap", "fiel", "mdcv", "clli", "amve", "SmDm", "CoLL", "dvcC", "dvvC"),
        *("st3d", "prhd", "equi", "cbmp", "mshp", "stri", "prji", "pkin", "elst", "vprp"),
        *("Colour", "MasteringMetadata", "Projection", "SPS", "header line", "script data"),
        *("CDCI picture descriptor", "RGBA picture descriptor", "MPEG video descriptor"),
        *("sequence header", "sequence extension", "frame header", "video object layer"),
        *("uncompressed header", "configuration record"),
    }
)
"""Unfolded from the start: they decide how the picture looks, and are short."""
FIELDS = (
    # what the field does, and the names it goes by (lower case, * for anything)
    ("Which red, green and blue. Read wrongly, colours pale or glow.", "*primaries"),
    (
        "How codes become light. Read wrongly, the picture goes flat or harsh.",
        *("transfer", "*transfer_characteristics", "transfercharacteristic*", "gamma*"),
    ),
    (
        "How luma and chroma were made from RGB. Read wrongly, reds and greens shift.",
        *("matrix", "matrix_coefficients", "matrixcoefficients", "codingequations"),
        *("colour_volume", "color_space", "colorspace_type"),
    ),
    (
        "Which codes are black and white. Read wrongly, blacks are lifted or crushed.",
        *("*full_range*", "range", "color_range", "colorrange", "video_range", "*reflevel"),
    ),
    (
        "How finely tones are divided.",
        *("*bit_depth*", "*bitdepth", "bitsperchannel", "componentdepth", "bits_per_*"),
        *("depth", "depth_code", "luma_minus8", "chroma_minus8", "twelve_bit", "ten_or_twelve_bit"),
    ),
    (
        "Samples at the edges that are not shown.",
        *("frame_crop*", "conf_win*", "pixelcrop*", "sampled?offset", "display?offset"),
    ),
    (
        "What is meant to be seen of the picture.",
        *("def_disp_win*", "display*width", "display*height", "display_*_size", "displayunit"),
        *("render_width*", "render_height*", "width_n", "width_d", "height_n", "height_d"),
    ),
    (
        "Samples across.",
        *("width", "*width_minus*", "pic_width*", "storedwidth", "sampledwidth", "pixelwidth"),
        *("samples_per_line", "horizontal_size_value", "video_object_layer_width"),
    ),
    (
        "Samples down.",
        *("height", "*height_minus*", "pic_height*", "storedheight", "sampledheight"),
        *("pixelheight", "active_lines", "vertical_size_value", "video_object_layer_height"),
    ),
    (
        "How wide each sample, or the whole picture, is shown.",
        *("?_spacing", "*aspect*", "sar_*", "par_*"),
    ),
    (
        "Whether a picture is one frame or two fields, and which field comes first.",
        *("*interlace*", "*progressive*", "*field*", "pic_struct*", "*scan*", "framelayout"),
        *("picture_structure", "frame_mbs_only_flag", "videolinemap", "detail"),
    ),
    (
        "Pictures a second, or what they are counted with.",
        *("*frame_rate*", "*framerate*", "samplerate", "editrate", "defaultduration"),
        *("*time_scale", "*units_in_*tick", "microseconds_per_frame", "vop_time_*", "scale"),
    ),
    ("How long it lasts.", "*duration"),
    (
        "How finely colour is sampled beside luma.",
        *("chroma", "chroma_format*", "*subsampl*", "mono*chrome", "full_chroma", "chroma_planes"),
        "log2_?_chroma_subsample",
    ),
    (
        "Where colour samples sit. Wrong by half a sample: fringes.",
        *("chroma_sample_loc*", "chroma_sample_position", "chromasiting*", "colorsiting"),
    ),
    ("Which tools a decoder must know.", "*profile*", "constraint_set_flags"),
    ("How much a decoder must manage.", "level", "*level_id?*", "*levelindication"),
    ("Whether high bit rates are allowed.", "*tier*"),
    (
        "How two eyes are packed, and which is which.",
        *("stereo*mode", "*eye*", "frame_packing*", "content_interpretation_type", "frame?_*"),
    ),
    ("That and how the picture is a sphere.", "projection*type", "spherical", "kind"),
    ("Where the sphere looks at first, in degrees.", "*yaw*", "*pitch*", "*roll*", "initialview*"),
    ("What is cut off the sphere.", "top", "bottom", "left", "right", "cropped*", "fullpano*"),
    ("Brightest light.", "max", "luminancemax", "*max*cll", "*max*fall", "*max*lumin*"),
    ("Darkest light.", "min", "luminancemin", "*minimumlumin*"),
    ("Turns or mirrors the picture for showing.", "[abcduvw]", "tx", "ty"),
    ("What kind of file this is.", "*_brand*", "doctype", "signature", "operational_pattern"),
    (
        "How the picture is coded.",
        *("codecid", "codec", "compression", "compression_id", "pictureessencecoding"),
        *("stream_type", "format_identifier", "version_major"),
    ),
    ("How many bits a second.", "*bit_rate*", "*datarate", "bps"),
)
UNNUMBERED = re.compile(r"\[\d+\]")
STEREO_NAMES = {0: "mono", 1: "top-bottom", 2: "left-right", 3: "custom", 4: "right-left"}
VALUES = {
    "primaries": PRIMARIES,
    "colour_primaries": PRIMARIES,
    "color_primaries": PRIMARIES,
    "Primaries": PRIMARIES,
    "transfer": TRANSFERS,
    "transfer_characteristics": TRANSFERS,
    "TransferCharacteristics": TRANSFERS,
    "preferred_transfer_characteristics": TRANSFERS,
    "matrix": MATRICES,
    "matrix_coefficients": MATRICES,
    "MatrixCoefficients": MATRICES,
    "full_range": {0: "limited", 1: "full"},
    "video_full_range_flag": {0: "limited", 1: "full"},
    "color_range": {0: "limited", 1: "full"},
    "Range": {0: "not stated", 1: "limited", 2: "full"},
    "chroma_format_idc": {0: "4:0:0", 1: "4:2:0", 2: "4:2:2", 3: "4:4:4"},
    "chroma_format": {0: "4:0:0", 1: "4:2:0", 2: "4:2:2", 3: "4:4:4"},
    "chroma_sample_loc_type_top_field": CHROMA_LOCATIONS,
    "stereo_mode": STEREO_NAMES,
    "ProjectionType": {0: "flat", 1: "equirectangular", 2: "cube map", 3: "mesh"},
    "FrameLayout": {0: "full frame", 1: "separate fields", 2: "one field", 3: "mixed fields"},
    "TrackType": {1: "picture", 2: "sound", 17: "text"},
}
_IN_INTEGERS = (("*_[xy]", 2e-5, ""), ("m[ai][xn]", 1e-4, "cd/m²"))
_FIXED_POINT = (("*_[xy]", 2**-16, ""), ("max", 2**-8, "cd/m²"), ("min", 2**-14, "cd/m²"))
_LIGHT = (("max_*", 1, "cd/m²"),)
_AMBIENT = (("*illuminance", 1e-4, "lx"), ("*_[xy]", 2e-5, ""))
_DEGREES = (("*_rotation", 2**-16, "°"),)
STEPS: dict[str, tuple[tuple[str, float, str], ...]] = {
    # part → name pattern, what one step of its value is worth, and the unit
    "mdcv": _IN_INTEGERS,
    "SEI 137 mastering display": _IN_INTEGERS,
    "SmDm": _FIXED_POINT,
    "metadata": (*_FIXED_POINT, *_LIGHT),
    "clli": _LIGHT,
    "CoLL": _LIGHT,
    "SEI 144 content light": _LIGHT,
    "amve": _AMBIENT,
    "SEI 148 ambient viewing": _AMBIENT,
    "SEI 154 sphere rotation": _DEGREES,
}


def part_words(name: str) -> str:
    """Return what a part is for; empty where no words are known."""
    return PARTS.get(UNNUMBERED.sub("", name), "")


def matters(name: str) -> bool:
    """Return whether a part decides how the picture looks and is short enough to stand open."""
    return name in OPEN_PARTS


def field_words(name: str) -> str:
    """Return what a field does to the picture; empty where it does nothing to it."""
    plain = UNNUMBERED.sub("", name).lower()
    for text, *patterns in FIELDS:
        if any(fnmatchcase(plain, pattern) for pattern in patterns):
            return text
    return ""


def value_words(part: str, name: str, value: FieldValue) -> str:
    """Return what a value is called, or is in its unit; empty where it speaks for itself."""
    if not isinstance(value, int):
        return ""
    for pattern, step, unit in STEPS.get(part, ()):
        if fnmatchcase(name, pattern):
            return unit if step == 1 else f"{value * step:.5g} {unit}".rstrip()
    return VALUES.get(name, {}).get(value, "")
