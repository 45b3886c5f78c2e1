"""AVI, FLV, MPEG transport stream and Y4M: what their few fields state, built by hand.

Sources: RIFF and OpenDML, FLV 10.1 annex E and its enhanced edition (both from memory); ITU-T
H.222.0 2.4 and 2.6; Y4M as written. Files of the FFmpeg multiplexers: test_wrappers_written.py.
"""

import unittest

from shapkeen.core.declared.wrappers.avi import chunks
from shapkeen.core.declared.wrappers.flv.amf import Amf, read_script
from shapkeen.core.declared.wrappers.mpegts import tables
from shapkeen.core.errors import UnreadableFileError
from tests.builders.small import SCRIPT, amf, avi, chunk, flv, flv_picture, packet, tag, transport
from tests.core.declared.test_isobmff import read


def values(data: bytes) -> dict:
    return {trait: one.value for trait, one in read(data).witness.items()}


class Avi(unittest.TestCase):
    def test_size_and_rate(self) -> None:
        found = read(avi())
        self.assertEqual(found.witness["raster"].value, (640, 480))
        self.assertEqual(found.witness["frame_rate"].value, (30000, 1001))
        self.assertEqual((found.video.codec, found.video.frame_count), ("mpeg4", 60))
        self.assertEqual(found.witness["raster"].where, "AVI/hdrl/strl[0]/strf")

    def test_rows_from_the_top_are_the_same_picture(self) -> None:
        self.assertEqual(values(avi(height=-480))["raster"], (640, 480))

    def test_video_properties_give_aspect_and_fields(self) -> None:
        vprp = chunks.VPRP.write(
            aspect_x=4, aspect_y=3, frame_width=720, frame_height=576, fields_per_frame=2
        )
        found = values(avi(more=chunk(b"vprp", vprp)))
        self.assertEqual((found["pixel_aspect"], found["scan"]), ((16, 15), "interlaced"))

    def test_unreadable(self) -> None:
        with self.assertRaises(UnreadableFileError) as caught:
            read(avi(code=b"QQQQ"))
        self.assertEqual(caught.exception.code, "unsupported-codec")
        with self.assertRaises(UnreadableFileError):
            read(b"RIFF\xff\0\0\0AVI ")


class Flv(unittest.TestCase):
    def test_script_data(self) -> None:
        found = read(flv(*flv_picture()))
        self.assertEqual(found.witness["raster"].value, (1280, 720))
        self.assertEqual(found.witness["frame_rate"].value, (24000, 1001))
        self.assertEqual((found.video.codec, found.video.duration_s), ("h264", 2.0))

    def test_enhanced_codes_and_colour_information(self) -> None:
        colour = {
            "colorConfig": {
                "bitDepth": 10.0,
                "colorPrimaries": 9.0,
                "transferCharacteristics": 16.0,
                "matrixCoefficients": 9.0,
            },
            "hdrCll": {"maxCLL": 1000.0, "maxFall": 400.0},
            "hdrMdcv": {
                **{f"{c}{axis}": 0.25 for c in ("red", "green", "blue") for axis in "XY"},
                "whitePointX": 0.3127,
                "whitePointY": 0.329,
                "maxLuminance": 1000.0,
                "minLuminance": 0.005,
            },
        }
        start, coded = flv_picture()
        enhanced = (
            tag(9, b"\x94avc1" + amf("colorInfo") + amf(colour)),
            tag(9, b"\x90avc1" + start[16:-4]),
            tag(9, b"\x91avc1\0\0\0" + coded[16:-4]),
        )
        found = values(flv(*enhanced))
        self.assertEqual([found[t] for t in ("primaries", "transfer", "matrix")], [9, 16, 9])
        self.assertEqual(found["content_light"], {"max_cll": 1000, "max_fall": 400})
        self.assertEqual(found["mastering_display"]["white"], (0.3127, 0.329))

    def test_hostile_figures_are_silence(self) -> None:
        # found by mutation: a denormal duration made the bit rate infinite
        for value in (5e-324, float("inf"), float("nan"), -1.0):
            script = dict.fromkeys(SCRIPT, value)
            found = read(flv(*flv_picture(), script=script))
            self.assertEqual(set(found.witness), {"bit_depth", "chroma"})
            self.assertIsNone(found.video.duration_s)

    def test_values_of_script_data(self) -> None:
        self.assertEqual(Amf(amf({"a": 1.0, "b": "c"})).value(), {"a": 1.0, "b": "c"})
        nested: dict = {}
        for _ in range(40):
            nested = {"in": nested}
        for data in (b"", amf("name"), amf("name") + amf(nested), amf("x") + b"\3\0\5a"):
            self.assertEqual(read_script(data), {})

    def test_no_picture(self) -> None:
        with self.assertRaises(UnreadableFileError) as caught:
            read(flv())
        self.assertEqual(caught.exception.code, "no-picture")


class TransportStream(unittest.TestCase):
    def test_times_give_length_and_count(self) -> None:
        found = read(transport())
        self.assertEqual((found.video.codec, found.video.frame_count), ("mpeg2", 6))
        self.assertEqual(found.video.duration_s, 0.24)
        self.assertEqual(len(found.coded.samples), 2)

    def test_descriptors_are_the_wrappers_words(self) -> None:
        video = tables.VIDEO.write(frame_rate_code=3, chroma_format=1)
        found = read(transport(descriptors=bytes([2, len(video)]) + video))
        self.assertEqual(found.witness["frame_rate"].value, (25, 1))
        self.assertEqual(found.witness["chroma"].value, "4:2:0")
        self.assertEqual(found.witness["chroma"].where, "program map/video_stream_descriptor")
        hevc = tables.HEVC.write(progressive_source=1)
        self.assertEqual(
            values(transport(kind=0x24, descriptors=bytes([0x38, len(hevc)]) + hevc))["scan"],
            "progressive",
        )

    def test_packets_with_times_before_and_checks_behind(self) -> None:
        bare = transport()
        each = [bare[i : i + 188] for i in range(0, len(bare), 188)]
        for made in (
            b"".join(b"\0\0\0\0" + p for p in each),
            b"".join(p + bytes(16) for p in each),
        ):
            self.assertEqual(read(made).video.frame_count, 6)

    def test_registration_names_the_codec(self) -> None:
        found = tables._streams(
            tables.PMT_HEAD.write()
            + tables.STREAM.write(stream_type=6, pid=9, info_length=6)
            + b"\x05\x04AV01"
        )
        self.assertEqual([stream.codec for stream in found], ["av1"])

    def test_the_clock_starts_over(self) -> None:
        # H.222.0 2.4.3.7: 33 bits at 90 kHz
        from shapkeen.core.declared.wrappers.mpegts.reader import _unwrapped

        times = _unwrapped([(1 << 33) - 3600, 0, 3600])
        self.assertEqual(max(times) - min(times), 7200)

    def test_a_stream_without_tables_is_unreadable(self) -> None:
        with self.assertRaises(UnreadableFileError):
            read(packet(500, bytes(184)) * 8)


class Y4m(unittest.TestCase):
    def line(self, words: str) -> dict:
        return values(f"YUV4MPEG2 {words}\nFRAME\n".encode() + bytes(200))

    def test_words(self) -> None:
        found = self.line("W720 H576 F25:1 It A16:15 C420paldv XCOLORRANGE=FULL")
        self.assertEqual((found["raster"], found["frame_rate"]), ((720, 576), (25, 1)))
        self.assertEqual((found["scan"], found["pixel_aspect"]), ("top-first", (16, 15)))
        self.assertEqual((found["chroma"], found["chroma_location"]), ("4:2:0", 2))
        self.assertEqual((found["bit_depth"], found["range"]), (8, "full"))

    def test_samplings(self) -> None:
        for word, chroma, depth in (
            ("420jpeg", "4:2:0", 8),
            ("422p10", "4:2:2", 10),
            ("444p12", "4:4:4", 12),
            ("mono", "4:0:0", 8),
            ("mono10", "4:0:0", 10),
        ):
            found = self.line(f"W64 H64 C{word}")
            self.assertEqual((found["chroma"], found["bit_depth"]), (chroma, depth), word)

    def test_unknown_is_silence(self) -> None:
        found = self.line("W64 H64 F0:0 I? A0:0 C411")
        self.assertEqual(found, {"raster": (64, 64)})

    def test_frames_are_counted_by_size(self) -> None:
        data = b"YUV4MPEG2 W64 H64 F24:1 C420\n" + (b"FRAME\n" + bytes(6144)) * 12
        self.assertEqual(read(data).video.frame_count, 12)

    def test_damage(self) -> None:
        for data in (b"YUV4MPEG2 W64 H64 F25:1", b"YUV4MPEG2 Wx H64\nFRAME\n"):
            with self.assertRaises(UnreadableFileError):
                read(data + b" " * 20)
