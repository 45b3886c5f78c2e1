"""MPEG-2, MPEG-4 part 2, VP8, VC-3 and FFV1: headers built bit by bit, and damage.

Syntax: ITU-T H.262 6.2, ISO/IEC 14496-2 6.2 (from memory), RFC 6386 9.1, SMPTE ST 2019-1 (offsets
of the reference), RFC 9043. Files of real encoders are read in test_against_ffmpeg.py.
"""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from shapkeen.core.declared.coded import CodedHeaders, HeaderUnit
from shapkeen.core.declared.streams import ffv1, mpeg2, read_stream, vc3
from shapkeen.core.errors import UnreadableFileError
from tests.builders.headers import mpeg2_sequence, mpeg4_layer, vp8_frame


def reading(codec: str, *samples: bytes, config: bytes = b""):
    units = (HeaderUnit(config, "track header"),) if config else ()
    heads = tuple(HeaderUnit(data, f"sample {i}") for i, data in enumerate(samples))
    return read_stream(CodedHeaders(codec=codec, length_bytes=0, config=units, samples=heads))


def said(codec: str, *samples: bytes, config: bytes = b"") -> dict:
    found = reading(codec, *samples, config=config)
    return {trait: one.value for trait, one in found.witness.items()}


class Mpeg2(unittest.TestCase):
    def test_shape_codes_name_the_displayed_area(self) -> None:
        # H.262 6.3.3 and table 6-3: 720×576 at 4:3 and 16:9, samples 16:15 and 64:45
        for code, aspect in ((1, (1, 1)), (2, (16, 15)), (3, (64, 45))):
            found = said("mpeg2", mpeg2_sequence(size=(720, 576), aspect=code))
            self.assertEqual(found["pixel_aspect"], aspect)

    def test_a_display_size_changes_the_sample_shape(self) -> None:
        # 720 coded of which 704 are the 4:3 picture: samples are 12:11 (BT.601 lore)
        found = said("mpeg2", mpeg2_sequence(size=(720, 576), aspect=2, display=(704, 576)))
        self.assertEqual(found["pixel_aspect"], (12, 11))

    def test_rates_and_their_extension(self) -> None:
        # H.262 table 6-4 and 6.3.5
        for code, n, d, rate in ((3, 0, 0, (25, 1)), (4, 0, 0, (30000, 1001)), (8, 0, 1, (30, 1))):
            found = said("mpeg2", mpeg2_sequence(rate=code, rate_extension=(n, d)))
            self.assertEqual(found["frame_rate"], rate)

    def test_size_extensions_reach_beyond_4095(self) -> None:
        self.assertEqual(said("mpeg2", mpeg2_sequence(size=(8192, 4352)))["raster"], (8192, 4352))

    def test_colour_sampling_and_profile(self) -> None:
        data = mpeg2_sequence(profile_level=0x82, chroma=2, colour=(1, 1, 1))
        found = reading("mpeg2", data)
        self.assertEqual((found.profile, found.level), ("4:2:2", "High"))
        values = {trait: one.value for trait, one in found.witness.items()}
        self.assertEqual(values["chroma"], "4:2:2")
        self.assertEqual([values[t] for t in ("primaries", "transfer", "matrix")], [1, 1, 1])
        self.assertEqual(found.witness["transfer"].where, "sequence display extension (sample 0)")

    def test_scan_by_sequence_and_by_picture(self) -> None:
        # H.262 6.3.10: field pictures, and frames of two fields
        for structure, top, whole, scan in (
            (1, False, False, "top-first"),
            (2, False, False, "bottom-first"),
            (3, True, False, "top-first"),
            (3, False, False, "bottom-first"),
            (3, True, True, "progressive"),
        ):
            picture = (structure, top, whole)
            self.assertEqual(
                said("mpeg2", mpeg2_sequence(progressive=False, picture=picture))["scan"], scan
            )
        self.assertEqual(said("mpeg2", mpeg2_sequence(progressive=True))["scan"], "progressive")

    def test_first_generation_has_no_extension(self) -> None:
        found = said("mpeg2", mpeg2_sequence()[:12])
        self.assertEqual(found["raster"], (1920, 1080))
        self.assertNotIn("chroma", found)

    def test_cut_and_missing_headers(self) -> None:
        with self.assertRaises(UnreadableFileError) as caught:
            reading("mpeg2", b"\0\0\1\xb8" + bytes(9))
        self.assertEqual(caught.exception.code, "no-sequence-header")
        whole = mpeg2_sequence(colour=(1, 1, 1))
        for length in range(5, len(whole)):
            reading("mpeg2", whole[:length])

    @settings(max_examples=60, deadline=None)
    @given(
        size=st.tuples(st.integers(16, 16383), st.integers(16, 16383)),
        colour=st.tuples(*[st.integers(1, 255)] * 3),
        chroma=st.sampled_from((1, 2, 3)),
    )
    def test_round_trip(self, size, colour, chroma) -> None:
        found = said("mpeg2", mpeg2_sequence(size=size, colour=colour, chroma=chroma))
        self.assertEqual(found["raster"], size)
        self.assertEqual(tuple(found[t] for t in ("primaries", "transfer", "matrix")), colour)

    def test_table_of_levels_and_profiles(self) -> None:
        self.assertEqual(mpeg2.ESCAPED[0x85], ("4:2:2", "Main"))


class Mpeg4(unittest.TestCase):
    def test_layer(self) -> None:
        data = mpeg4_layer(size=(720, 576), aspect=2, colour=(1, 1, 1), rate=(25, 1))
        found = reading("mpeg4", data)
        values = {trait: one.value for trait, one in found.witness.items()}
        self.assertEqual(values["raster"], (720, 576))
        self.assertEqual(values["pixel_aspect"], (12, 11))
        self.assertEqual(values["frame_rate"], (25, 1))
        self.assertEqual((values["scan"], values["bit_depth"]), ("progressive", 8))
        self.assertEqual([values[t] for t in ("primaries", "transfer", "matrix")], [1, 1, 1])
        self.assertEqual(values["range"], "limited")
        self.assertEqual((found.profile, found.level), ("Advanced Simple", "5"))

    def test_extended_aspect_and_interlace(self) -> None:
        found = said("mpeg4", mpeg4_layer(aspect=15, par=(64, 45), interlaced=True))
        self.assertEqual((found["pixel_aspect"], found["scan"]), ((64, 45), "interlaced"))

    def test_header_in_the_track_is_read_too(self) -> None:
        found = reading("mpeg4", config=mpeg4_layer())
        self.assertEqual(found.witness["raster"].where, "video object layer (track header)")

    def test_cut_and_missing_headers(self) -> None:
        with self.assertRaises(UnreadableFileError):
            reading("mpeg4", b"\0\0\1\xb6" + bytes(9))
        whole = mpeg4_layer(colour=(9, 16, 9))
        for length in range(len(whole) - 2, 30, -1):
            with self.subTest(length=length):
                try:
                    reading("mpeg4", whole[:length])
                except UnreadableFileError as error:
                    self.assertEqual(error.code, "no-sequence-header")


class Vp8(unittest.TestCase):
    def test_key_frame(self) -> None:
        # RFC 6386 9.1: little-endian tag, start code 9D 01 2A, 14 bits of size each
        found = said("vp8", vp8_frame(1280, 720))
        self.assertEqual(found, {"raster": (1280, 720), "bit_depth": 8, "chroma": "4:2:0"})

    def test_other_frames_say_nothing(self) -> None:
        with self.assertRaises(UnreadableFileError):
            reading("vp8", vp8_frame(1280, 720, key=False))
        self.assertEqual(
            said("vp8", vp8_frame(64, 64, key=False), vp8_frame(640, 360))["raster"], (640, 360)
        )


class Vc3(unittest.TestCase):
    def frame(self, **values: int) -> bytes:
        stated = {
            "header_size": 0x280,
            "version": 3,
            "field_flags": 1,
            "active_lines": 1080,
            "samples_per_line": 1920,
            "depth_code": 2,
            "compression_id": 1271,
            "progressive": 1,
        }
        return vc3.FRAME.write(**(stated | values))

    def test_frame(self) -> None:
        found = reading("vc3", self.frame())
        values = {trait: one.value for trait, one in found.witness.items()}
        self.assertEqual(found.profile, "HQX")
        self.assertEqual(values["raster"], (1920, 1080))
        self.assertEqual((values["bit_depth"], values["chroma"]), (10, "4:2:2"))
        self.assertEqual((values["scan"], values["matrix"]), ("progressive", 1))

    def test_offsets_are_those_of_the_reference(self) -> None:
        # byte 18 lines, 1A samples, 21 depth, 28 identifier, 2C colour volume (boxes section 8)
        data = self.frame(colour_volume=1, full_chroma=1)
        self.assertEqual((data[0x18:0x1A], data[0x1A:0x1C]), (b"\x04\x38", b"\x07\x80"))
        self.assertEqual((data[0x21] >> 5, data[0x28:0x2C]), (2, b"\0\0\x04\xf7"))
        self.assertEqual(data[0x2C], 0b11000010)
        found = said("vc3", data)
        self.assertEqual((found["matrix"], found["chroma"]), (9, "4:4:4"))

    def test_fields_count_twice(self) -> None:
        found = said("vc3", self.frame(field_flags=2, active_lines=540, interlaced=1))
        self.assertEqual((found["raster"], found["scan"]), ((1920, 1080), "interlaced"))

    def test_depths(self) -> None:
        for code, depth in ((1, 8), (2, 10), (3, 12)):
            self.assertEqual(said("vc3", self.frame(depth_code=code))["bit_depth"], depth)

    def test_anything_else_is_unreadable(self) -> None:
        for data in (bytes(64), b"\xff" * 64, self.frame()[:20]):
            with self.assertRaises(UnreadableFileError):
                reading("vc3", data)


class Ffv1(unittest.TestCase):
    def test_transition_table(self) -> None:
        # RFC 9043 3.8.1.4: the first states, and a few further on, of the default table
        self.assertEqual(ffv1.AFTER_ONE[:12], (0,) * 8 + (20, 21, 22, 23))
        self.assertEqual(
            [ffv1.AFTER_ONE[i] for i in (25, 26, 128, 247, 248)], [37, 37, 134, 248, 248]
        )

    def test_damage_is_a_notice(self) -> None:
        for data in (b"", b"\xff", b"\xff" * 40, bytes(40)):
            found = reading("ffv1", config=data) if data else reading("ffv1")
            self.assertNotIn("raster", found.witness)

    def test_frames_between_key_frames_say_nothing(self) -> None:
        self.assertEqual(said("ffv1", bytes(40)), {})


class UnreadCodecs(unittest.TestCase):
    def test_the_stream_is_silent_and_says_so(self) -> None:
        found = reading("mjpeg", b"\xff\xd8")
        self.assertEqual(found.witness, {})
        self.assertEqual([notice.code for notice in found.notices], ["stream-not-read"])


class Outlines(unittest.TestCase):
    def test_fields_are_named_as_in_the_standard(self) -> None:
        part = reading("mpeg2", mpeg2_sequence()).parts[0]
        names = [field.name for field in part.fields]
        self.assertEqual(part.name, "sequence header")
        self.assertEqual(names[:2], ["horizontal_size_value", "vertical_size_value"])
        self.assertEqual(part.fields[0].value, 1920)
