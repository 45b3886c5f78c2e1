"""Messages and flags that x264, x265, SVT-AV1 and FFmpeg's MPEG-2 encoder wrote as told."""

import unittest
from dataclasses import replace
from fractions import Fraction

from shapkeen.core.declared import Declaration, read_declaration
from tests.builders import media
from tests.builders.media import HDR, SDR, Coding, write

QUICK = ("preset", "ultrafast")
DISPLAY = "G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)"


def coded(name: str, coding: Coding, *, hdr: bool = False) -> Declaration:
    planes = media.hdr_planes("coffee") if hdr else media.sdr_planes("coffee")
    return read_declaration(write(f"encoders-{name}", planes[:4], coding))


class X264(unittest.TestCase):
    def said(self, name: str, settings: str) -> dict:
        coding = replace(SDR, options=(QUICK, ("x264-params", settings)))
        return {t: one.value for t, one in coded(name, coding).stream.items()}

    def test_frame_packing(self) -> None:
        for kind, stereo in ((3, "left-right"), (4, "top-bottom"), (5, "frame-sequential")):
            self.assertEqual(self.said("packing", f"frame-packing={kind}")["stereo"], stereo)

    def test_field_order_by_picture_structure(self) -> None:
        for flag, scan in (("tff", "top-first"), ("bff", "bottom-first")):
            said = self.said(flag, f"interlaced=1:{flag}=1:pic-struct=1")
            self.assertEqual(said["scan"], scan)
        self.assertEqual(self.said("whole", "pic-struct=1")["scan"], "progressive")
        self.assertNotIn("scan", self.said("silent", "pic-struct=0"))

    def test_buffers_do_not_hide_the_structure(self) -> None:
        settings = "nal-hrd=vbr:vbv-maxrate=4000:vbv-bufsize=4000:pic-struct=1:interlaced=1:tff=1"
        self.assertEqual(self.said("buffers", settings)["scan"], "top-first")

    def test_light(self) -> None:
        said = self.said("light", f"mastering-display={DISPLAY}:cll=1000,400")
        self.assertEqual(said["content_light"], {"max_cll": 1000, "max_fall": 400})
        self.assertEqual(said["mastering_display"]["red"], (0.68, 0.32))
        self.assertEqual(said["mastering_display"]["min"], 0.005)


class X265(unittest.TestCase):
    def test_alternative_transfer_buffers_and_display_window(self) -> None:
        settings = (
            "log-level=error:atc-sei=18:display-window=0,0,8,8:hrd=1:vbv-bufsize=8000:"
            "vbv-maxrate=8000:repeat-headers=1"
        )
        found = coded("x265", replace(HDR, options=(QUICK, ("x265-params", settings))), hdr=True)
        self.assertEqual(found.stream["alternative_transfer"].value, 18)
        self.assertEqual(found.stream["transfer"].value, 16)
        self.assertEqual(found.stream["raster"].value, media.SIZE)
        self.assertEqual([notice.code for notice in found.notices], ["display-window"])


class SvtAv1(unittest.TestCase):
    def test_light(self) -> None:
        settings = (
            "mastering-display=G(0.265,0.69)B(0.15,0.06)R(0.68,0.32)WP(0.3127,0.329)L(1000,0.005):"
            "content-light=1000,400"
        )
        options = (("preset", "12"), ("crf", "40"), ("svtav1-params", settings))
        found = coded("svt", replace(HDR, codec="libsvtav1", options=options), hdr=True)
        self.assertEqual(found.stream["content_light"].value, {"max_cll": 1000, "max_fall": 400})
        display = found.stream["mastering_display"].value
        for colour, xy in (("red", (0.68, 0.32)), ("white", (0.3127, 0.329))):
            for one, other in zip(display[colour], xy, strict=True):
                self.assertAlmostEqual(one, other, delta=1 / 65536)
        self.assertAlmostEqual(display["min"], 0.005, delta=1 / 16384)


class Mpeg2(unittest.TestCase):
    def test_fields(self) -> None:
        options = (("flags", "+ildct+ilme"),)
        coding = replace(
            SDR, codec="mpeg2video", options=options, ending=".ts", flags=(), rate=Fraction(25)
        )
        found = coded("mpeg2-fields", coding)
        # frames are given without a field order: the encoder codes the lower field first
        self.assertEqual(found.stream["scan"].value, "bottom-first")
        self.assertIn("picture coding extension", found.stream["scan"].where)
