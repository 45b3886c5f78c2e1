"""Files of the FFmpeg multiplexers with known settings, in every wrapper.

Our values are the settings, and they are what the libraries report where these report it (PyAV
18.1); where they hide or guess is listed in docs/witnesses.md. Each file is then damaged.
"""

import random
import unittest
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import av

from shapkeen.core.declared import Declaration, read_declaration, read_outline
from shapkeen.core.errors import UnreadableFileError
from tests.builders import media
from tests.builders.media import SDR, Coding, write
from tests.fuzz import limited

SECOND_KEY = (("g", "5"),)
X264 = (("preset", "ultrafast"), *SECOND_KEY)
PAL = Fraction(25)


@dataclass(frozen=True, kw_only=True)
class Written:
    """One file: how it was coded, and what each witness must say of it."""

    coding: Coding
    wrapper: str
    codec: str
    said: dict = field(default_factory=dict)
    coded: dict = field(default_factory=dict)
    profile: str | None = None
    frames: int | None = media.FRAMES
    depth: int = 8
    chroma: str = "4:2:0"

    @property
    def name(self) -> str:
        return f"written-{self.codec}-{self.wrapper}-{self.coding.ending[1:]}"


def plain(codec: str, ending: str, *options: tuple[str, str], **more) -> Coding:
    return replace(SDR, codec=codec, options=options, ending=ending, flags=(), **more)


BT709 = {"primaries": 1, "transfer": 1, "matrix": 1}
WRITTEN = (
    Written(
        coding=plain("mpeg2video", ".mxf", ("b", "12M"), *SECOND_KEY, rate=PAL),
        wrapper="mxf",
        codec="mpeg2",
        profile="Main",
        said={"frame_rate": (25, 1), "range": "limited", "scan": "progressive", **BT709},
        coded={"frame_rate": (25, 1), "scan": "progressive", **BT709},
    ),
    Written(
        coding=plain("libx264", ".mxf", *X264, pix_fmt="yuv422p10le", rate=Fraction(24000, 1001)),
        wrapper="mxf",
        codec="h264",
        profile="High 4:2:2",
        depth=10,
        chroma="4:2:2",
        said={"frame_rate": (24000, 1001), "bit_depth": 10, "chroma": "4:2:2", **BT709},
        coded={"bit_depth": 10, "chroma": "4:2:2", **BT709},
    ),
    Written(
        coding=plain("dnxhd", ".mxf", ("profile", "dnxhr_hq"), pix_fmt="yuv422p", rate=PAL),
        wrapper="mxf",
        codec="vc3",
        profile="HQ",
        chroma="4:2:2",
        said={"bit_depth": 8, "chroma": "4:2:2", "range": "limited"},
        coded={"bit_depth": 8, "chroma": "4:2:2", "matrix": 1, "scan": "progressive"},
    ),
    Written(
        coding=plain(
            "dnxhd",
            ".opatom.mxf",
            ("profile", "dnxhr_sq"),
            pix_fmt="yuv422p",
            rate=PAL,
            container="mxf_opatom",
        ),
        wrapper="mxf",
        codec="vc3",
        profile="SQ",
        chroma="4:2:2",
        said={"bit_depth": 8, "chroma": "4:2:2", "frame_rate": (25, 1)},
        coded={"bit_depth": 8, "scan": "progressive"},
    ),
    Written(
        coding=plain(
            "dnxhd", ".mov", ("profile", "dnxhr_hqx"), pix_fmt="yuv422p10le", colour=(9, 16, 9, 1)
        ),
        wrapper="mov",
        codec="vc3",
        profile="HQX",
        depth=10,
        chroma="4:2:2",
        said={"primaries": 9, "transfer": 16, "matrix": 9},
        coded={"bit_depth": 10, "matrix": 1},
    ),
    Written(
        coding=plain("mpeg4", ".avi", *SECOND_KEY, aspect=Fraction(4, 3)),
        wrapper="avi",
        codec="mpeg4",
        profile="Simple",
        said={"frame_rate": (24, 1)},
        coded={"pixel_aspect": (4, 3), "bit_depth": 8, "chroma": "4:2:0", "scan": "progressive"},
    ),
    Written(
        coding=plain("mpeg4", ".mp4", *SECOND_KEY),
        wrapper="mp4",
        codec="mpeg4",
        profile="Simple",
        said={**BT709, "range": "limited"},
        coded={"pixel_aspect": (1, 1)},
    ),
    Written(
        coding=plain("mpeg2video", ".mkv", *SECOND_KEY, rate=PAL),
        wrapper="matroska",
        codec="mpeg2",
        said=BT709,
        coded={"frame_rate": (25, 1), **BT709},
    ),
    Written(
        coding=plain("ffv1", ".mkv", ("level", "3"), pix_fmt="yuv422p10le"),
        wrapper="matroska",
        codec="ffv1",
        depth=10,
        chroma="4:2:2",
        said=BT709,
        coded={"bit_depth": 10, "chroma": "4:2:2", "scan": "progressive"},
    ),
    Written(
        coding=plain("ffv1", ".avi", ("level", "1")),
        wrapper="avi",
        codec="ffv1",
        coded={"bit_depth": 8, "chroma": "4:2:0"},
    ),
    Written(
        coding=plain("libvpx", ".webm", ("b", "2M")),
        wrapper="webm",
        codec="vp8",
        said=BT709,
        coded={"bit_depth": 8, "chroma": "4:2:0"},
    ),
    Written(
        coding=plain("libx264", ".flv", *X264),
        wrapper="flv",
        codec="h264",
        profile="Constrained Baseline",
        frames=None,
        said={"frame_rate": (24, 1)},
        coded={**BT709, "bit_depth": 8},
    ),
    Written(
        coding=plain("libx264", ".ts", *X264),
        wrapper="mpegts",
        codec="h264",
        coded={**BT709, "range": "limited", "frame_rate": (24, 1)},
    ),
    Written(
        coding=plain("mpeg2video", ".ts", ("b", "4M"), *SECOND_KEY, rate=PAL),
        wrapper="mpegts",
        codec="mpeg2",
        coded={"frame_rate": (25, 1), "scan": "progressive"},
    ),
    Written(
        coding=plain("rawvideo", ".y4m", aspect=Fraction(4, 3)),
        wrapper="other",
        codec="rawvideo",
        said={"frame_rate": (24, 1), "scan": "progressive", "range": "limited", "bit_depth": 8},
    ),
    Written(
        coding=plain("huffyuv", ".avi", pix_fmt="yuv422p"),
        wrapper="avi",
        codec="huffyuv",
        chroma="4:2:2",
    ),
    Written(coding=plain("mjpeg", ".avi", pix_fmt="yuvj420p"), wrapper="avi", codec="mjpeg"),
    Written(
        coding=plain("libx264", ".nut", *X264),
        wrapper="other",
        codec="h264",
        frames=None,
        coded=BT709,
    ),
    Written(
        coding=plain("mpeg2video", ".mpg", *SECOND_KEY, rate=PAL),
        wrapper="other",
        codec="mpeg2",
        frames=None,
        coded={"frame_rate": (25, 1)},
    ),
    Written(coding=plain("libvpx", ".ivf", ("b", "2M")), wrapper="other", codec="vp8"),
    Written(
        coding=plain("libx264", ".h264", *X264),
        wrapper="other",
        codec="h264",
        frames=None,
        coded={"frame_rate": (24, 1)},
    ),
)
SILENT_RASTER = {"mpegts", "other"}
"""Wrappers with no field for the picture's size; Y4M, of the others, has one."""


@lru_cache(maxsize=32)
def _coded(coding: Coding, name: str, depth: int, chroma: str) -> Path:
    return write(name, media.sdr_planes("coffee", depth=depth, chroma=chroma), coding)


def path_of(written: Written) -> Path:
    return _coded(written.coding, written.name, written.depth, written.chroma)


def values(witness) -> dict:
    return {trait: one.value for trait, one in witness.items()}


class Settings(unittest.TestCase):
    def test_each_witness_says_what_was_set(self) -> None:
        for written in WRITTEN:
            with self.subTest(file=written.name):
                found = read_declaration(path_of(written))
                self.assertEqual(found.file.wrapper, written.wrapper)
                self.assertEqual(found.video.codec, written.codec)
                self.assertEqual(found.video.frame_count, written.frames)
                if written.profile:
                    self.assertEqual(found.video.profile, written.profile)
                for witness, expected in (
                    (found.wrapper, written.said),
                    (found.stream, written.coded),
                ):
                    said = values(witness)
                    self.assertEqual({t: said.get(t) for t in expected}, expected)
                self.check_raster(written, found)

    def check_raster(self, written: Written, found: Declaration) -> None:
        said = [w["raster"].value for w in (found.wrapper, found.stream) if "raster" in w]
        self.assertTrue(said)
        self.assertEqual(set(said), {media.SIZE})
        if written.wrapper in SILENT_RASTER and written.codec != "rawvideo":
            self.assertNotIn("raster", found.wrapper)

    def test_the_libraries_report_the_same(self) -> None:
        for written in WRITTEN:
            with self.subTest(file=written.name):
                found = read_declaration(path_of(written))
                with av.open(str(path_of(written))) as container:
                    stream = container.streams.video[0]
                    context = stream.codec_context
                    stated = {**values(found.stream), **values(found.wrapper)}
                    codes = {
                        "primaries": context.color_primaries,
                        "transfer": context.color_trc,
                    }
                    for trait, theirs in codes.items():
                        if trait in stated and int(theirs) != 2:
                            self.assertEqual(stated[trait], int(theirs))
                    # A bare stream has no times: the libraries then show 25, whatever it says.
                    bare = written.coding.ending == ".h264"
                    if "frame_rate" in stated and stream.average_rate and not bare:
                        self.assertEqual(Fraction(*stated["frame_rate"]), stream.average_rate)
                    aspect = stream.sample_aspect_ratio
                    if "pixel_aspect" in stated and aspect:
                        self.assertEqual(Fraction(*stated["pixel_aspect"]), aspect)

    def test_bit_rates_are_the_pictures_own(self) -> None:
        for written in WRITTEN:
            found = read_declaration(path_of(written))
            if found.video.bit_rate is None or not found.video.duration_s:
                continue
            with self.subTest(file=written.name), av.open(str(path_of(written))) as container:
                weight = sum(packet.size for packet in container.demux(video=0))
                measured = weight * 8 / found.video.duration_s
                # Frame heads, partitions and stuffing of these very short files weigh something.
                self.assertLess(abs(found.video.bit_rate / measured - 1), 0.35)

    def test_outlines_hold_fields_in_file_order(self) -> None:
        for written in WRITTEN:
            with self.subTest(file=written.name):
                outline = read_outline(path_of(written))
                self.assertTrue(outline.wrapper)
                starts = [part.start for part in outline.wrapper if part.start is not None]
                self.assertEqual(starts, sorted(starts))
                if written.coded:
                    self.assertTrue(any(part.fields for part in outline.stream))


class Damaged(unittest.TestCase):
    def test_cut_and_flipped_files_answer_clearly(self) -> None:
        chance = random.Random(20261125)
        for written in WRITTEN:
            whole = path_of(written).read_bytes()
            for number in range(12):
                data = bytearray(whole)
                if number < 4:
                    data = data[: chance.randrange(16, len(data))]
                for _ in range(8 * (number > 1)):
                    near = min(len(data), 6000)
                    data[chance.randrange(near)] = chance.choice((0, 1, 0x7F, 0x80, 0xFF))
                path = media.temporary(f"damaged{written.coding.ending}", bytes(data))
                with self.subTest(file=written.name, number=number):
                    for read in (read_declaration, read_outline):
                        try:
                            with limited():
                                read(path)
                        except UnreadableFileError as error:
                            self.assertTrue(error.code and error.text)


class SecondRandomAccess(unittest.TestCase):
    """Headers that change at the second point where decoding can start are found and said."""

    def test_places_of_the_second_picture(self) -> None:
        places = {
            "mxf": "picture 5",
            "avi": "frame 5",
            "matroska": "second cue's cluster block 0",
            "flv": "key frame 1",
            "mpegts": "picture near the start",
        }
        seen = set()
        for written in WRITTEN:
            place = places.get(written.wrapper)
            intra = written.codec in ("vc3", "ffv1", "huffyuv", "mjpeg")
            if place is None or intra or written.codec == "h264":
                continue
            with self.subTest(file=written.name):
                parts = read_outline(path_of(written)).stream
                self.assertIn(place, {part.where for part in parts})
                seen.add(written.wrapper)
        self.assertGreaterEqual(seen, {"mxf", "avi", "matroska", "mpegts"})
