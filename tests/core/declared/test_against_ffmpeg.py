"""What our reader says against what the FFmpeg libraries say (through PyAV 18.1), for files that
x264 and x265 wrote with known settings."""

import unittest
from dataclasses import replace
from fractions import Fraction
from functools import partial

import av
from av.sidedata.sidedata import Type

from shapkeen.core.declared import read_declaration
from tests.builders import media
from tests.builders.boxes import box, full, into_entry
from tests.builders.media import HDR, SDR, write


class KnownSettings(unittest.TestCase):
    def test_x264(self) -> None:
        for number, (pix, aspect, rate, colour) in enumerate(
            (
                ("yuv420p", None, Fraction(25), (1, 1, 1, 1)),
                ("yuv420p", Fraction(4, 3), Fraction(24000, 1001), (5, 6, 5, 1)),
                ("yuv422p10le", Fraction(40, 33), Fraction(30), (9, 16, 9, 1)),
                ("yuv420p", Fraction(1), Fraction(60000, 1001), (1, 13, 1, 2)),
            )
        ):
            with self.subTest(pix=pix, aspect=aspect):
                depth, chroma = (10, "4:2:2") if "422" in pix else (8, "4:2:0")
                planes = media.sdr_planes("coffee", depth=depth, chroma=chroma)[:4]
                coding = replace(SDR, pix_fmt=pix, aspect=aspect, rate=rate, colour=colour)
                path = write(f"ff264-{number}", planes, coding)
                self.compare(path, colour, aspect, rate)

    def test_x265(self) -> None:
        path = write("ff265", media.hdr_planes("coffee")[:4], HDR)
        found = self.compare(path, (9, 16, 9, 1), None, Fraction(24))
        self.assertEqual(found.video.profile, "Main 10")
        self.assertEqual(found.stream["scan"].value, "progressive")
        # the settings given to the encoder
        light = found.stream["content_light"].value
        self.assertEqual(light, {"max_cll": 1000, "max_fall": 200})
        display = found.stream["mastering_display"].value
        self.assertEqual(display["green"], (0.265, 0.69))
        with av.open(str(path)) as container:
            frame = next(container.decode(video=0))
            theirs = frame.side_data[Type.CONTENT_LIGHT_LEVEL]
            self.assertEqual(int.from_bytes(bytes(theirs)[:4], "little"), light["max_cll"])
        self.assertNotIn("content_light", found.wrapper)

    def test_fragmented(self) -> None:
        flags = (("movflags", "frag_keyframe+empty_moov"),)
        path = write("fffrag", media.sdr_planes("coffee"), replace(SDR, flags=flags))
        found = read_declaration(path)
        self.assertEqual(found.video.frame_count, media.FRAMES)
        self.assertEqual(found.wrapper["frame_rate"].value, (24, 1))
        self.assertTrue(found.file.index_first)

    def test_index_order(self) -> None:
        path = write("fflast", media.sdr_planes("coffee")[:2], replace(SDR, flags=()))
        self.assertFalse(read_declaration(path).file.index_first)

    def compare(self, path, colour, aspect, rate):
        found = read_declaration(path)
        with av.open(str(path)) as container:
            stream = container.streams.video[0]
            context = stream.codec_context
            for witness in (found.wrapper, found.stream):
                said = {trait: one.value for trait, one in witness.items()}
                self.assertEqual(said["raster"], (context.width, context.height))
                codes = tuple(said[t] for t in ("primaries", "transfer", "matrix"))
                self.assertEqual(codes, colour[:3])
                theirs = (context.color_primaries, context.color_trc, context.colorspace)
                self.assertEqual(codes, tuple(int(code) for code in theirs))
                self.assertEqual(said["range"], "full" if colour[3] == 2 else "limited")
                self.assertEqual(Fraction(*said["frame_rate"]), rate)
            self.assertEqual(found.video.frame_count, stream.frames)
            self.assertEqual(Fraction(*found.wrapper["frame_rate"].value), stream.average_rate)
            theirs = stream.sample_aspect_ratio
            if aspect:
                self.assertEqual(Fraction(*found.wrapper["pixel_aspect"].value), theirs)
                self.assertEqual(Fraction(*found.stream["pixel_aspect"].value), aspect)
            self.assertEqual(found.video.codec_tag, context.codec_tag)
        return found

    def test_prores_in_both_wrappers(self) -> None:
        planes = media.sdr_planes("coffee", depth=10, chroma="4:2:2")[:3]
        for ending, wrapper in ((".mov", "mov"), (".mkv", "matroska")):
            coding = replace(
                SDR,
                codec="prores_ks",
                options=(("profile", "3"),),
                pix_fmt="yuv422p10le",
                ending=ending,
                flags=(),
                colour=(9, 16, 9, 1),
            )
            path = write(f"prores{ending[1:]}", planes, coding)
            found = read_declaration(path)
            said = {trait: one.value for trait, one in found.stream.items()}
            self.assertEqual((found.file.wrapper, found.video.codec), (wrapper, "prores"))
            self.assertEqual(said["raster"], media.SIZE)
            self.assertEqual((said["chroma"], said["scan"]), ("4:2:2", "progressive"))
            # This encoder takes its frame header's codes from frames, and the wrapper's from the
            # context: a difference between the witnesses that the libraries do not show.
            codes = ("primaries", "transfer", "matrix")
            self.assertEqual([said[t] for t in codes], [2, 2, 2])
            self.assertEqual([found.wrapper[t].value for t in codes], [9, 16, 9])
            if wrapper == "mov":
                self.assertEqual(found.video.profile, "422 HQ")


class ReadBack(unittest.TestCase):
    """Boxes put in by hand mean to the libraries what they mean to our reader."""

    SIDE_BY_SIDE, TOP_BOTTOM, UNSPECIFIED = 1, 2, 8
    HALF_EQUIRECTANGULAR = 3

    def test_extended_usage(self) -> None:
        path = write("vexu-base", media.sdr_planes("coffee")[:2], replace(SDR, flags=()))
        for packing, kind, words in (
            (b"side", self.SIDE_BY_SIDE, ("left-right", "right-left")),
            (b"over", self.TOP_BOTTOM, ("top-bottom", "bottom-top")),
            (b"", self.UNSPECIFIED, ("multiview", "multiview")),
        ):
            for reverse in (0, 1):
                eyes = box("eyes", full("stri", bytes([0b0011 | reverse << 3])))
                packed = box("pack", full("pkin", packing)) if packing else b""
                sphere = box("proj", full("prji", b"hequ"))
                made = box("vexu", eyes, packed, sphere)
                patched = media.patched(path, "vexu.mp4", partial(into_entry, made))
                said = read_declaration(patched).wrapper
                self.assertEqual(said["stereo"].value, words[reverse])
                self.assertEqual(said["projection"].value, "half-equirectangular")
                with av.open(str(patched)) as container:
                    side = next(container.decode(video=0)).side_data
                    stereo = bytes(side[Type.STEREO3D])
                    sphere_kind = bytes(side[Type.SPHERICAL])[0]
                self.assertEqual((stereo[0], stereo[4]), (kind, reverse))
                self.assertEqual(sphere_kind, self.HALF_EQUIRECTANGULAR)

    def test_colour_information_of_enhanced_flv(self) -> None:
        coding = replace(HDR, ending=".flv", flags=())
        path = write("enhanced", media.hdr_planes("coffee")[:3], coding)
        found = read_declaration(path)
        codes = ("primaries", "transfer", "matrix")
        for witness in (found.wrapper, found.stream):
            self.assertEqual([witness[t].value for t in codes], [9, 16, 9])
        self.assertEqual((found.video.codec, found.video.codec_tag), ("h265", "hvc1"))
