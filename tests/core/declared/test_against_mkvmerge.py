"""What our reader says of Matroska files that mkvmerge 74 (Debian) wrote with known settings."""

import shutil
import subprocess
import unittest
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from shapkeen.core.declared import Declaration, read_declaration
from tests.builders import media
from tests.builders.media import HDR, SDR, write

TRACK = "0"


def merged(name: str, source: Path, *settings: tuple[str, str]) -> Declaration:
    """Return the declaration of a file that mkvmerge made of another with these settings."""
    command = shutil.which("mkvmerge")
    if command is None:
        raise AssertionError(
            "mkvmerge is missing; `make test` installs it from Debian's mkvtoolnix"
        )
    out = media.place(f"{name}.mkv")
    options = [word for option, value in settings for word in (option, f"{TRACK}:{value}")]
    done = subprocess.run(
        [command, "-q", "-o", str(out), *options, str(source)], capture_output=True, check=False
    )
    if done.returncode > 1:
        raise AssertionError(done.stdout.decode())
    return read_declaration(out)


def values(found: Declaration) -> dict:
    return {trait: one.value for trait, one in found.wrapper.items()}


class Settings(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.sdr = write("mkvmerge-sdr", media.sdr_planes("coffee"), SDR)
        cls.hdr = write("mkvmerge-hdr", media.hdr_planes("coffee"), HDR)

    def test_colour_and_light(self) -> None:
        found = merged(
            "mm-colour",
            self.hdr,
            ("--color-primaries", "9"),
            ("--color-transfer-characteristics", "16"),
            ("--color-matrix-coefficients", "9"),
            ("--color-range", "1"),
            ("--color-bits-per-channel", "10"),
            ("--chroma-subsample", "1,1"),
            ("--chroma-siting", "1,2"),
            ("--max-content-light", "1000"),
            ("--max-frame-light", "400"),
            ("--chromaticity-coordinates", "0.68,0.32,0.265,0.69,0.15,0.06"),
            ("--white-color-coordinates", "0.3127,0.329"),
            ("--max-luminance", "1000"),
            ("--min-luminance", "0.005"),
        )
        said = values(found)
        self.assertEqual([said[t] for t in ("primaries", "transfer", "matrix")], [9, 16, 9])
        self.assertEqual((said["range"], said["bit_depth"]), ("limited", 10))
        self.assertEqual((said["chroma"], said["chroma_location"]), ("4:2:0", 0))
        self.assertEqual(said["content_light"], {"max_cll": 1000, "max_fall": 400})
        display = said["mastering_display"]
        self.assertEqual((display["red"], display["white"]), ((0.68, 0.32), (0.3127, 0.329)))
        self.assertEqual((display["max"], display["min"]), (1000.0, 0.005))
        # the stream keeps its own words beside them
        self.assertEqual(found.stream["content_light"].value, {"max_cll": 1000, "max_fall": 200})

    def test_shape(self) -> None:
        cropped = merged("mm-crop", self.sdr, ("--cropping", "0,22,0,22"))
        self.assertEqual(values(cropped)["raster"], (640, 316))
        self.assertEqual(cropped.stream["raster"].value, (640, 360))
        wide = merged("mm-wide", self.sdr, ("--display-dimensions", "853x360"))
        self.assertEqual(values(wide)["display_size"], (853, 360))
        self.assertEqual(values(wide)["pixel_aspect"], (853, 640))
        shaped = values(merged("mm-aspect", self.sdr, ("--aspect-ratio", "64/27")))
        self.assertAlmostEqual(float(Fraction(*shaped["pixel_aspect"])), 4 / 3, places=2)

    def test_eyes_and_sphere(self) -> None:
        for mode, stereo in (
            (1, "left-right"),
            (2, "bottom-top"),
            (3, "top-bottom"),
            (11, "right-left"),
            (13, "frame-sequential"),
            (10, "other"),
        ):
            found = merged("mm-stereo", self.sdr, ("--stereo-mode", str(mode)))
            self.assertEqual(values(found)["stereo"], stereo)
        quarter = "00000000" + "00000000" * 2 + "40000000" * 2
        sphere = merged(
            "mm-sphere",
            self.sdr,
            ("--projection-type", "1"),
            ("--projection-private", quarter),
            ("--projection-pose-yaw", "-30"),
        )
        said = values(sphere)
        self.assertEqual(said["projection"], "half-equirectangular")
        self.assertEqual(said["projection_bounds"]["left"], 0.25)
        self.assertEqual(said["pose"], {"yaw": -30.0, "pitch": 0.0, "roll": 0.0})

    def test_fields_and_rate(self) -> None:
        for order, scan in ((1, "top-first"), (6, "bottom-first"), (9, "top-first")):
            found = merged("mm-fields", self.sdr, ("--field-order", str(order)))
            self.assertEqual(values(found)["scan"], scan)
        found = merged("mm-rate", self.sdr, ("--default-duration", "30000/1001p"))
        self.assertEqual(values(found)["frame_rate"], (30000, 1001))

    def test_statistics_are_the_tracks_own(self) -> None:
        for source in (self.sdr, self.hdr):
            found = merged("mm-stats", source)
            self.assertEqual(found.video.frame_count, media.FRAMES)
            self.assertGreater(found.video.bit_rate, 10_000)

    def test_other_codecs_come_through(self) -> None:
        av1 = replace(HDR, codec="libsvtav1", options=(("preset", "12"), ("crf", "40")))
        prores = replace(
            SDR, codec="prores_ks", options=(), pix_fmt="yuv422p10le", ending=".mov", flags=()
        )
        mpeg2 = replace(
            SDR, codec="mpeg2video", options=(), ending=".mpg", flags=(), rate=Fraction(25)
        )
        for name, coding, planes in (
            ("av1", av1, media.hdr_planes("coffee")[:4]),
            ("prores", prores, media.sdr_planes("coffee", depth=10, chroma="4:2:2")[:4]),
            ("mpeg2", mpeg2, media.sdr_planes("coffee")),
        ):
            found = merged(f"mm-{name}", write(f"mkvmerge-{name}", planes, coding))
            self.assertEqual(found.video.codec, name)
            self.assertEqual(found.stream["raster"].value, media.SIZE)
