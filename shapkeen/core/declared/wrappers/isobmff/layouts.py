"""The boxes' fixed parts as tables. Byte layouts: ISO/IEC 14496-12 unless a line says else.

FullBox fields (version and flags) stand in the tables where the box has them.
"""

from ...layout import Field, Layout, fields

FULL = (Field("version", 8), Field("flags", 24))
ISO = "ISO/IEC 14496-12"
SPHERICAL_V2 = "Spherical Video V2, public format text"

BOX = Layout("box", fields(size=32, type=32), source=f"{ISO} 4.2")
LARGE_SIZE = Layout("largesize", fields(size=64), source=f"{ISO} 4.2")
FULL_BOX = Layout("fullbox", FULL, source=f"{ISO} 4.2")

_MATRIX = fields(a=-32, b=-32, u=-32, c=-32, d=-32, v=-32, tx=-32, ty=-32, w=-32)
_AFTER_DURATION = (
    *fields(reserved=64, layer=-16, alternate_group=16, volume=16, reserved2=16),
    *_MATRIX,
    *fields(width=32, height=32),
)
TKHD = {
    0: Layout(
        "tkhd",
        (
            *FULL,
            *fields(creation=32, modification=32, track_id=32, reserved0=32, duration=32),
            *_AFTER_DURATION,
        ),
        source=f"{ISO} 8.3.2",
    ),
    1: Layout(
        "tkhd",
        (
            *FULL,
            *fields(creation=64, modification=64, track_id=32, reserved0=32, duration=64),
            *_AFTER_DURATION,
        ),
        source=f"{ISO} 8.3.2",
    ),
}
MDHD = {
    0: Layout(
        "mdhd",
        (
            *FULL,
            *fields(creation=32, modification=32, timescale=32, duration=32, language=16, zero=16),
        ),
        source=f"{ISO} 8.4.2",
    ),
    1: Layout(
        "mdhd",
        (
            *FULL,
            *fields(creation=64, modification=64, timescale=32, duration=64, language=16, zero=16),
        ),
        source=f"{ISO} 8.4.2",
    ),
}
MVHD = {
    0: Layout(
        "mvhd",
        (
            *FULL,
            *fields(creation=32, modification=32, timescale=32, duration=32, rate=32, volume=16),
        ),
        source=f"{ISO} 8.2.2",
    ),
    1: Layout(
        "mvhd",
        (
            *FULL,
            *fields(creation=64, modification=64, timescale=32, duration=64, rate=32, volume=16),
        ),
        source=f"{ISO} 8.2.2",
    ),
}
EDIT = {
    0: Layout("edit", fields(duration=32, media_time=-32, rate=32), source=f"{ISO} 8.6.6"),
    1: Layout("edit", fields(duration=64, media_time=-64, rate=32), source=f"{ISO} 8.6.6"),
}
HDLR = Layout("hdlr", (*FULL, *fields(predefined=32, handler=32)), source=f"{ISO} 8.4.3")
STSD = Layout("stsd", (*FULL, *fields(count=32)), source=f"{ISO} 8.5.2")
TABLE = Layout("table", (*FULL, *fields(count=32)), source=f"{ISO} 8.6, 8.7")
STSZ = Layout("stsz", (*FULL, *fields(sample_size=32, count=32)), source=f"{ISO} 8.7.3")

VISUAL_ENTRY = Layout(
    "VisualSampleEntry",
    (
        *fields(reserved=48, data_reference=16, version=16, revision=16, vendor=32),
        *fields(temporal_quality=32, spatial_quality=32, width=16, height=16, hres=32, vres=32),
        *fields(data_size=32, frame_count=16, compressor_name=256, depth=16, table_id=-16),
    ),
    source=f"{ISO} 12.1.3",
)
AUDIO_ENTRY = Layout(
    "AudioSampleEntry",
    fields(
        reserved=48,
        data_reference=16,
        version=16,
        revision=16,
        vendor=32,
        channels=16,
        sample_bits=16,
        compression=16,
        packet_size=16,
        rate_16_16=32,
    ),
    source=f"{ISO} 12.2.3",
)
TIMECODE_ENTRY = Layout(
    "tmcd",
    fields(
        reserved=48,
        data_reference=16,
        none=32,
        flags=32,
        timescale=32,
        frame_duration=32,
        counted=8,
    ),
    source="QuickTime File Format, timecode sample description (from memory)",
)
PASP = Layout("pasp", fields(h_spacing=32, v_spacing=32), source=f"{ISO} 12.1.4")
CLAP = Layout(
    "clap",
    fields(
        width_n=32,
        width_d=32,
        height_n=32,
        height_d=32,
        h_offset_n=-32,
        h_offset_d=32,
        v_offset_n=-32,
        v_offset_d=32,
    ),
    source=f"{ISO} 12.1.4",
)
COLR_TYPE = Layout("colr", fields(colour_type=32), source=f"{ISO} 12.1.5")
COLR_NCLX = Layout(
    "colr/nclx",
    fields(colour_type=32, primaries=16, transfer=16, matrix=16, full_range=1, reserved=7),
    source=f"{ISO} 12.1.5; codes: ITU-T H.273 tables 2 to 4",
)
COLR_NCLC = Layout(
    "colr/nclc",
    fields(colour_type=32, primaries=16, transfer=16, matrix=16),
    source="QuickTime File Format, colour parameter atoms; no range flag",
)
FIEL = Layout("fiel", fields(fields=8, detail=8), source="QuickTime File Format, field handling")
GAMA = Layout("gama", fields(gamma_16_16=32), source="QuickTime File Format, gamma level")
DYNAMIC_HDR = Layout(
    "dynamic HDR configuration",
    fields(
        version_major=8,
        version_minor=8,
        profile=7,
        level=6,
        rpu_present=1,
        el_present=1,
        bl_present=1,
        bl_compatibility_id=4,
    ),
    source="scene by scene metadata configuration (layout of the reference)",
)
BTRT = Layout("btrt", fields(buffer_size=32, max_bit_rate=32, avg_bit_rate=32), source=ISO)

ST3D = Layout("st3d", (*FULL, *fields(stereo_mode=8)), source=SPHERICAL_V2)
PRHD = Layout("prhd", (*FULL, *fields(yaw=-32, pitch=-32, roll=-32)), source=SPHERICAL_V2)
EQUI = Layout("equi", (*FULL, *fields(top=32, bottom=32, left=32, right=32)), source=SPHERICAL_V2)

CBMP = Layout("cbmp", (*FULL, *fields(layout=32, padding=32)), source=SPHERICAL_V2)
MSHP = Layout("mshp", (*FULL, *fields(crc=32, encoding=32)), source=SPHERICAL_V2)
VEXU = "video extended usage (layout of the reference; pkin from memory)"
STRI = Layout(
    "stri",
    (*FULL, *fields(reserved=4, eye_views_reversed=1, additional_views=1, right_eye=1, left_eye=1)),
    source=VEXU,
)
PRJI = Layout("prji", (*FULL, *fields(kind=32)), source=VEXU)
PKIN = Layout("pkin", (*FULL, *fields(kind=32)), source=VEXU)

SIDX = Layout("sidx", (*FULL, *fields(reference_id=32, timescale=32)), source=f"{ISO} 8.16.3")
MFHD = Layout("mfhd", (*FULL, *fields(sequence=32)), source=f"{ISO} 8.8.5")
TREX = Layout(
    "trex",
    (*FULL, *fields(track_id=32, description=32, duration=32, size=32, sample_flags=32)),
    source=f"{ISO} 8.8.3",
)
TFHD = Layout("tfhd", (*FULL, *fields(track_id=32)), source=f"{ISO} 8.8.7")
TRUN = Layout("trun", (*FULL, *fields(count=32)), source=f"{ISO} 8.8.8")
