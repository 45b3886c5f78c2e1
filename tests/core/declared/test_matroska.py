"""Matroska and WebM: what each element states. Layout: RFC 9559, RFC 8794."""

import random
import struct
import unittest
from dataclasses import replace
from fractions import Fraction

import av

from shapkeen.core.declared import read_declaration
from shapkeen.core.declared.wrappers.matroska import elements as ids
from shapkeen.core.declared.wrappers.matroska.ebml import read_number
from shapkeen.core.errors import UnreadableFileError
from tests.builders import media
from tests.builders.ebml import element, matroska
from tests.builders.media import HDR, SDR, write
from tests.core.declared.test_isobmff import read
from tests.reference import load


def said(*video: bytes, **options) -> dict:
    return {trait: one.value for trait, one in read(matroska(*video, **options)).witness.items()}


def colour(*inside: bytes) -> bytes:
    return element(ids.COLOUR, *inside)


class Numbers(unittest.TestCase):
    def test_sizes_and_ids(self) -> None:
        # RFC 8794 sections 4 and 5
        for data, marker, value in (
            (b"\x82", False, (2, 1)),
            (b"\x40\x02", False, (2, 2)),
            (b"\xff", False, (-1, 1)),
            (b"\x01" + b"\xff" * 7, False, (-1, 8)),
            (b"\x1a\x45\xdf\xa3", True, (0x1A45DFA3, 4)),
        ):
            self.assertEqual(read_number(data, keep_marker=marker), value)
        for data in (b"", b"\x00", b"\x40"):
            self.assertIsNone(read_number(data, keep_marker=False))


class Video(unittest.TestCase):
    def test_raster_less_crop(self) -> None:
        crop = element(ids.CROP_TOP, 138), element(ids.CROP_BOTTOM, 138)
        self.assertEqual(said(*crop)["raster"], (1920, 804))

    def test_display_in_samples_gives_size_and_aspect(self) -> None:
        found = said(element(ids.DISPLAY_WIDTH, 2560), element(ids.DISPLAY_HEIGHT, 1080))
        self.assertEqual(found["display_size"], (2560, 1080))
        self.assertEqual(found["pixel_aspect"], (4, 3))

    def test_display_as_an_aspect_gives_aspect_only(self) -> None:
        shown = (
            element(ids.DISPLAY_WIDTH, 4),
            element(ids.DISPLAY_HEIGHT, 3),
            element(ids.DISPLAY_UNIT, 3),
        )
        found = said(*shown, size=(1080, 1080))
        self.assertEqual(found["pixel_aspect"], (4, 3))
        self.assertNotIn("display_size", found)

    def test_silent_display_says_nothing(self) -> None:
        self.assertNotIn("pixel_aspect", said())
        self.assertNotIn("display_size", said())

    def test_colour(self) -> None:
        found = said(
            colour(
                element(ids.PRIMARIES, 9),
                element(ids.TRANSFER, 16),
                element(ids.MATRIX, 9),
                element(ids.RANGE, 1),
                element(ids.BITS, 10),
                element(ids.SUBSAMPLING_X, 1),
                element(ids.SUBSAMPLING_Y, 1),
                element(ids.MAX_CLL, 1000),
                element(ids.MAX_FALL, 400),
            )
        )
        self.assertEqual([found[t] for t in ("primaries", "transfer", "matrix")], [9, 16, 9])
        self.assertEqual(
            (found["range"], found["chroma"], found["bit_depth"]), ("limited", "4:2:0", 10)
        )
        self.assertEqual(found["content_light"], {"max_cll": 1000, "max_fall": 400})

    def test_range_that_says_nothing(self) -> None:
        for code in (0, 3):
            self.assertNotIn("range", said(colour(element(ids.RANGE, code))))

    def test_chroma_siting(self) -> None:
        # tests/reference/codepoints.json: H.273 code against Matroska's pair
        for row in load("codepoints")["chroma_sample_location"]["rows"]:
            code, across, down = row[0], row[6], row[7]
            if across is not None:
                pair = element(ids.SITING_X, across), element(ids.SITING_Y, down)
                self.assertEqual(said(colour(*pair))["chroma_location"], code)

    def test_mastering_display_whole_or_not_at_all(self) -> None:
        values = {
            0x55D1: 0.68,
            0x55D2: 0.32,
            0x55D3: 0.265,
            0x55D4: 0.69,
            0x55D5: 0.15,
            0x55D6: 0.06,
            0x55D7: 0.3127,
            0x55D8: 0.329,
            0x55D9: 1000.0,
            0x55DA: 0.005,
        }
        parts = [element(key, value) for key, value in values.items()]
        found = said(colour(element(ids.MASTERING, *parts)))["mastering_display"]
        self.assertEqual((found["green"], found["max"]), ((0.265, 0.69), 1000.0))
        self.assertNotIn("mastering_display", said(colour(element(ids.MASTERING, *parts[1:]))))

    def test_scan(self) -> None:
        for parts, scan in (
            ((element(ids.FLAG_INTERLACED, 2),), "progressive"),
            ((element(ids.FLAG_INTERLACED, 1), element(ids.FIELD_ORDER, 9)), "top-first"),
            ((element(ids.FLAG_INTERLACED, 1), element(ids.FIELD_ORDER, 14)), "bottom-first"),
            ((element(ids.FLAG_INTERLACED, 1),), "interlaced"),
            ((element(ids.FLAG_INTERLACED, 0),), None),
        ):
            self.assertEqual(said(*parts).get("scan"), scan)

    def test_eyes(self) -> None:
        # tests/reference/codepoints.json, RFC 9559 53B8
        words = {
            "mono": "mono",
            "side by side, left eye first": "left-right",
            "side by side, right eye first": "right-left",
            "top-bottom, left eye first": "top-bottom",
            "top-bottom, right eye first": "bottom-top",
        }
        rows = load("codepoints")["stereo_and_projection_codes"]["Matroska_StereoMode"]["rows"]
        for code, meaning in rows:
            expected = words.get(
                meaning, "frame-sequential" if "laced in one" in meaning else "other"
            )
            self.assertEqual(said(element(ids.STEREO_MODE, code))["stereo"], expected, meaning)

    def test_sphere(self) -> None:
        bounds = struct.pack(">5I", 0, 0, 0, 1 << 30, 1 << 30)
        found = said(
            element(
                ids.PROJECTION,
                element(ids.PROJECTION_TYPE, 1),
                element(ids.PROJECTION_PRIVATE, bounds),
                element(ids.POSE["yaw"], -30.0),
            )
        )
        self.assertEqual(found["projection"], "half-equirectangular")
        self.assertEqual(found["pose"], {"yaw": -30.0, "pitch": 0.0, "roll": 0.0})
        for code, name in ((0, "rectilinear"), (2, "cubemap"), (3, "mesh")):
            project = element(ids.PROJECTION, element(ids.PROJECTION_TYPE, code))
            self.assertEqual(said(project), said() | {"projection": name})

    def test_impossible_crop_is_a_notice(self) -> None:
        reading = read(matroska(element(ids.CROP_LEFT, 3000)))
        self.assertEqual([n.code for n in reading.notices], ["bad-crop"])


class Track(unittest.TestCase):
    def test_rates_that_nanoseconds_round(self) -> None:
        for ns, rate in (
            (41_708_333, (24000, 1001)),
            (40_000_000, (25, 1)),
            (16_683_333, (60000, 1001)),
        ):
            found = read(matroska(track=element(ids.DEFAULT_DURATION, ns)))
            self.assertEqual(found.witness["frame_rate"].value, rate)
            self.assertEqual(found.video.frame_count, round(2 * Fraction(*rate)))

    def test_dynamic_hdr(self) -> None:
        kind = int.from_bytes(b"dvvC", "big")
        mapping = element(ids.BLOCK_ADDITION_MAPPING, element(ids.ADDITION_TYPE, kind))
        found = read(matroska(track=mapping)).witness["dynamic_hdr"]
        self.assertEqual(found.value, ("st2094-10",))

    def test_places_name_the_element(self) -> None:
        where = read(matroska(colour(element(ids.PRIMARIES, 9)))).witness["primaries"].where
        self.assertEqual(where, "Segment/Tracks/TrackEntry[0]/Video/Colour")

    def test_tracks_behind_the_pictures_and_unknown_sizes(self) -> None:
        for options in ({"tracks_last": True}, {"unknown": True}):
            reading = read(matroska(**options))
            self.assertEqual(reading.witness["raster"].value, (1920, 1080))
            self.assertEqual(reading.coded.samples[0].data[4] & 31, 5)

    def test_wrapper_names(self) -> None:
        self.assertEqual(read(matroska()).wrapper, "matroska")
        self.assertEqual(read(matroska(doc_type="webm")).wrapper, "webm")
        self.assertIsNone(read(matroska()).index_first)

    def test_unreadable(self) -> None:
        sound = element(ids.EBML_HEADER) + element(
            ids.SEGMENT, element(ids.TRACKS, element(ids.TRACK_ENTRY, element(ids.TRACK_TYPE, 2)))
        )
        for data, code in (
            (matroska()[:-9], "truncated"),
            (matroska(codec_id="V_QQQQ"), "unsupported-codec"),
            (sound, "no-picture"),
            (element(ids.EBML_HEADER) + element(ids.SEGMENT, element(ids.INFO)), "truncated"),
        ):
            with self.assertRaises(UnreadableFileError) as caught:
                read(data)
            self.assertEqual(caught.exception.code, code)

    def test_no_mutation_escapes(self) -> None:
        chance = random.Random(20261125)
        seed = matroska(colour(element(ids.PRIMARIES, 9)), element(ids.STEREO_MODE, 3))
        for number in range(600):
            data = bytearray(seed)
            for _ in range(chance.randint(1, 5)):
                data[chance.randrange(len(data))] = chance.choice((0, 1, 0x7F, 0x80, 0xFF))
            path = media.temporary("mutated.mkv", bytes(data))
            with self.subTest(number=number):
                try:
                    read_declaration(path)
                except UnreadableFileError as error:
                    self.assertTrue(error.code)


class AgainstFfmpeg(unittest.TestCase):
    """Files that the FFmpeg libraries multiplex, with known settings (PyAV 18.1)."""

    def test_x264_and_x265(self) -> None:
        for name, planes, settings, colours in (
            ("m264", media.sdr_planes("coffee"), replace(SDR, aspect=Fraction(4, 3)), (1, 1, 1)),
            ("m265", media.hdr_planes("coffee"), HDR, (9, 16, 9)),
        ):
            coding = replace(settings, ending=".mkv", flags=())
            path = write(name, planes[:6], coding)
            found = read_declaration(path)
            wrapper = {trait: one.value for trait, one in found.wrapper.items()}
            self.assertEqual(wrapper["raster"], media.SIZE)
            self.assertEqual(
                tuple(wrapper[t] for t in ("primaries", "transfer", "matrix")), colours
            )
            self.assertEqual(wrapper["range"], "limited")
            self.assertEqual(wrapper["frame_rate"], (24, 1))
            self.assertEqual(found.video.frame_count, 6)
            self.assertEqual(found.stream["transfer"].value, colours[1])
            with av.open(str(path)) as container:
                theirs = container.streams.video[0].sample_aspect_ratio
            if coding.aspect:
                # This multiplexer leaves the display size unknown; the library then gives the
                # stream's aspect as the file's, and we keep the wrapper silent.
                self.assertEqual(theirs, Fraction(4, 3))
                self.assertNotIn("pixel_aspect", wrapper)
                self.assertEqual(found.stream["pixel_aspect"].value, (4, 3))


class Blocks(unittest.TestCase):
    """RFC 9559 section 10: lacing; 5.1.4.1.31: header stripping; cues and statistics."""

    FRAME = b"\0\0\0\x05\x65\x88\x84\0\x10"

    def first(self, data: bytes) -> bytes:
        return read(data).coded.samples[0].data

    def laced(self, lacing: int, head: bytes) -> bytes:
        block = b"\x81\0\0" + bytes([0x80 | lacing << 1]) + head + self.FRAME + bytes(40)
        plain = matroska()
        start = plain.index(b"\x81\0\0\x80" + self.FRAME) - 9
        made = plain[:start] + element(ids.SIMPLE_BLOCK, block)
        for identity in (ids.SEGMENT, ids.CLUSTER):
            name = identity.to_bytes(4, "big")
            place = made.index(name) + 4
            made = made[:place] + b"\x01" + b"\xff" * 7 + made[place + 8 :]
        return made

    def test_lacing_heads_are_left_out(self) -> None:
        for lacing, head in (
            (0, b""),
            (1, b"\x02\xff\x20\x09"),
            (2, b"\x02"),
            (3, b"\x02\x89\xbf"),
        ):
            self.assertTrue(self.first(self.laced(lacing, head)).startswith(self.FRAME), lacing)

    def test_stripped_headers_are_put_back(self) -> None:
        encoding = element(
            ids.CONTENT_ENCODINGS,
            element(
                ids.CONTENT_ENCODING,
                element(
                    ids.CONTENT_COMPRESSION,
                    element(ids.COMPRESSION_ALGORITHM, 3),
                    element(ids.COMPRESSION_SETTINGS, self.FRAME[:4]),
                ),
            ),
        )
        data = matroska(track=encoding, block=self.FRAME[4:])
        self.assertEqual(self.first(data), self.FRAME)

    def test_compressed_frames_are_not_read(self) -> None:
        packed = element(ids.CONTENT_COMPRESSION, element(ids.COMPRESSION_ALGORITHM, 0))
        encoding = element(ids.CONTENT_ENCODINGS, element(ids.CONTENT_ENCODING, packed))
        self.assertEqual(read(matroska(track=encoding)).coded.samples, ())

    def test_statistics_in_tags_are_declared_figures(self) -> None:
        simple = [
            element(ids.SIMPLE_TAG, element(ids.TAG_NAME, name), element(ids.TAG_TEXT, text))
            for name, text in (("BPS", "4000000"), ("NUMBER_OF_FRAMES", "48"))
        ]
        targets = element(ids.TARGETS, element(ids.TAG_TRACK_UID, 77))
        tags = element(ids.TAGS, element(ids.TAG, targets, *simple))
        found = read(matroska(track=element(ids.TRACK_UID, 77), before_clusters=tags)).video
        self.assertEqual((found.bit_rate, found.frame_count), (4_000_000, 48))
        other = read(matroska(track=element(ids.TRACK_UID, 5), before_clusters=tags)).video
        self.assertNotEqual(other.bit_rate, 4_000_000)
