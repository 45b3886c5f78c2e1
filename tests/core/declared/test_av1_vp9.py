"""AV1 and VP9: headers built bit by bit, and files of SVT-AV1 and libvpx with known settings.

Sources: AV1 specification 1.0.0 errata 1 (5.5, 5.8), VP9 specification 0.6, AV1 and VP codecs in
ISOBMFF; codes: tests/reference/codepoints.json.
"""

import struct
import unittest
from dataclasses import replace

from shapkeen.core.declared import read_declaration
from shapkeen.core.declared.coded import CodedHeaders, HeaderUnit
from shapkeen.core.declared.streams import av1, read_stream
from shapkeen.core.declared.wrappers import config
from shapkeen.core.errors import UnreadableFileError
from tests.builders import media
from tests.builders.bits import BitWriter
from tests.builders.boxes import box, full
from tests.builders.media import SDR, write
from tests.core.declared.test_isobmff import said
from tests.reference import load


def obu(kind: int, payload: bytes) -> bytes:
    size = len(payload)
    return bytes([kind << 3 | 2, size & 127 | 128, size >> 7]) + payload


def sequence(
    *, profile=0, level=8, size=(1920, 1080), high=False, codes=None, full_range=False, site=1
):
    bits = BitWriter().u(3, profile).flags(False, False)
    bits.flags(True).u(32, 1001).u(32, 24000).flags(True).ue(0).flags(False)  # timing, no model
    bits.flags(False).u(5, 0).u(12, 0).u(5, level)
    if level > 7:
        bits.flags(False)
    bits.u(4, 12).u(4, 12).u(13, size[0] - 1).u(13, size[1] - 1)
    bits.flags(False).u(3, 0).u(4, 0).flags(True).u(2, 0).flags(True, True).u(3, 6).u(3, 0)
    bits.flags(high)
    if profile != 1:
        bits.flags(False)
    bits.flags(codes is not None)
    for code in codes or ():
        bits.u(8, code)
    if codes != (1, 13, 0):
        bits.flags(full_range)
        if profile == 0:
            bits.u(2, site)
    return obu(1, bits.flags(False, False).bytes())


def stream(codec: str, *samples: bytes):
    units = tuple(HeaderUnit(data, f"sample {i}") for i, data in enumerate(samples))
    return read_stream(CodedHeaders(codec=codec, length_bytes=4, config=(), samples=units))


def values(codec: str, *samples: bytes) -> dict:
    return {trait: one.value for trait, one in stream(codec, *samples).witness.items()}


class Av1(unittest.TestCase):
    def test_sequence_header(self) -> None:
        reading = stream("av1", sequence(high=True, codes=(9, 16, 9), level=13))
        found = {trait: one.value for trait, one in reading.witness.items()}
        self.assertEqual((reading.profile, reading.level, reading.tier), ("Main", "5.1", "main"))
        self.assertEqual((found["raster"], found["bit_depth"]), ((1920, 1080), 10))
        self.assertEqual([found[t] for t in ("primaries", "transfer", "matrix")], [9, 16, 9])
        self.assertEqual((found["range"], found["chroma"]), ("limited", "4:2:0"))
        self.assertEqual((found["chroma_location"], found["frame_rate"]), (0, (24000, 1001)))

    def test_no_description_is_silence(self) -> None:
        self.assertNotIn("transfer", values("av1", sequence()))

    def test_srgb_sends_no_range(self) -> None:
        found = values("av1", sequence(profile=1, codes=(1, 13, 0)))
        self.assertEqual((found["range"], found["chroma"]), ("full", "4:4:4"))

    def test_metadata(self) -> None:
        # boxes.md section 5: order red, green, blue; 0.16, 24.8 and 18.14
        xy = [round(v * 65536) for v in (0.68, 0.32, 0.265, 0.69, 0.15, 0.06, 0.3127, 0.329)]
        display = struct.pack(">8HII", *xy, 1000 << 8, round(0.005 * 16384))
        found = values(
            "av1",
            sequence()
            + obu(5, b"\x01" + struct.pack(">HH", 1000, 400) + b"\x80")
            + obu(5, b"\x02" + display + b"\x80")
            + obu(5, b"\x04\xb5\x00\x3c\x00\x01\x04\x01" + bytes(9)),
        )
        self.assertEqual(found["content_light"], {"max_cll": 1000, "max_fall": 400})
        self.assertAlmostEqual(found["mastering_display"]["green"][1], 0.69, places=4)
        self.assertEqual(found["mastering_display"]["max"], 1000.0)
        self.assertEqual(found["dynamic_hdr"], ("st2094-40",))

    def test_numbers_of_base_128(self) -> None:
        self.assertEqual(av1.leb128(b"\xe5\x8e\x26", 0), (624485, 3))
        self.assertIsNone(av1.leb128(b"\xff" * 9, 0))

    def test_nothing_to_read(self) -> None:
        for data in (b"", b"\x12\x00", obu(1, b"\x00"), bytes(90)):
            with self.assertRaises(UnreadableFileError):
                stream("av1", data)


def vp9_header(*, profile=0, space=2, full_range=False, size=(1280, 720), twelve=False) -> bytes:
    bits = BitWriter().u(2, 2).u(1, profile & 1).u(1, profile >> 1)
    if profile == 3:
        bits.flags(False)
    bits.flags(False, False, True, False).u(24, 0x498342)
    if profile >= 2:
        bits.flags(twelve)
    bits.u(3, space)
    if space != 7:
        bits.flags(full_range)
        if profile in (1, 3):
            bits.flags(True, False, False)
    elif profile in (1, 3):
        bits.flags(False)
    return bits.u(16, size[0] - 1).u(16, size[1] - 1).u(32, 0).bytes()


class Vp9(unittest.TestCase):
    def test_colour_spaces_state_the_matrix_only(self) -> None:
        for code, _, matrix in load("codepoints")["mapping"]["VP9"]["rows"]:
            if matrix is not None and code != 7:
                found = values("vp9", vp9_header(space=code))
                self.assertEqual(found["matrix"], matrix)
                self.assertNotIn("transfer", found)
                self.assertNotIn("primaries", found)

    def test_profiles(self) -> None:
        for profile, depth, chroma in ((0, 8, "4:2:0"), (1, 8, "4:2:2"), (2, 10, "4:2:0")):
            reading = stream("vp9", vp9_header(profile=profile))
            self.assertEqual(reading.profile, str(profile))
            self.assertEqual(reading.witness["bit_depth"].value, depth)
            self.assertEqual(reading.witness["chroma"].value, chroma)
        self.assertEqual(values("vp9", vp9_header(profile=2, twelve=True))["bit_depth"], 12)

    def test_rgb_is_full_range_without_a_bit(self) -> None:
        found = values("vp9", vp9_header(profile=1, space=7))
        self.assertEqual((found["range"], found["chroma"], found["matrix"]), ("full", "4:4:4", 0))
        self.assertEqual(found["raster"], (1280, 720))

    def test_nothing_to_read(self) -> None:
        for data in (b"", bytes(40), vp9_header()[:6]):
            with self.assertRaises(UnreadableFileError):
                stream("vp9", data)


class Records(unittest.TestCase):
    def test_av1_record_is_the_wrappers_word(self) -> None:
        record = config.AV1C.write(
            marker=1,
            version=1,
            seq_level_idx_0=13,
            high_bitdepth=1,
            subsampling_x=1,
            subsampling_y=1,
            chroma_sample_position=2,
        ) + sequence(high=True)
        found = said(config=box("av1C", record), entry_kind="av01", samples=sequence(high=True))
        self.assertEqual(
            (found["bit_depth"], found["chroma"], found["chroma_location"]), (10, "4:2:0", 2)
        )

    def test_vp9_boxes(self) -> None:
        record = config.VPCC.write(
            version=1,
            profile=2,
            level=51,
            bit_depth=10,
            chroma_subsampling=1,
            primaries=9,
            transfer=16,
            matrix=9,
        )
        xy = [round(v * 65536) for v in (0.68, 0.32, 0.265, 0.69, 0.15, 0.06, 0.3127, 0.329)]
        display = full("SmDm", struct.pack(">8HII", *xy, 1000 << 8, 82))
        light = full("CoLL", struct.pack(">HH", 1000, 400))
        data = {"config": box("vpcC", record), "entry_kind": "vp09", "samples": vp9_header() * 2}
        found = said(display, light, **data)
        self.assertEqual([found[t] for t in ("primaries", "transfer", "matrix")], [9, 16, 9])
        self.assertEqual((found["bit_depth"], found["range"]), (10, "limited"))
        self.assertEqual(found["content_light"], {"max_cll": 1000, "max_fall": 400})
        self.assertEqual(found["mastering_display"]["max"], 1000.0)


class Encoders(unittest.TestCase):
    def test_svt_av1_and_libvpx(self) -> None:
        for name, settings, codec in (
            ("a.mp4", {"codec": "libsvtav1", "options": (("preset", "12"), ("crf", "40"))}, "av1"),
            ("a.mkv", {"codec": "libsvtav1", "options": (("preset", "12"), ("crf", "40"))}, "av1"),
            ("v.mp4", {"codec": "libvpx-vp9", "options": (("deadline", "realtime"),)}, "vp9"),
            ("v.webm", {"codec": "libvpx-vp9", "options": (("deadline", "realtime"),)}, "vp9"),
        ):
            with self.subTest(name=name):
                ending = f".{name.split('.')[1]}"
                coding = replace(SDR, **settings, ending=ending, flags=())
                path = write(f"enc-{codec}", media.sdr_planes("coffee")[:2], coding)
                found = read_declaration(path)
                self.assertEqual(found.video.codec, codec)
                stated = {trait: one.value for trait, one in found.stream.items()}
                self.assertEqual(stated["raster"], media.SIZE)
                self.assertEqual((stated["bit_depth"], stated["chroma"]), (8, "4:2:0"))
                self.assertEqual((stated["range"], stated["matrix"]), ("limited", 1))
                if codec == "av1":
                    self.assertEqual((stated["primaries"], stated["transfer"]), (1, 1))
                else:
                    self.assertNotIn("transfer", stated)
                self.assertEqual(found.wrapper["transfer"].value, 1)
