"""Size and time arithmetic against worked examples (definitions; M = 10⁶, G = 10⁹), and carriers
against facts of the trade and against what encoders write."""

import unittest
from dataclasses import replace
from fractions import Fraction

from shapkeen.core.declared import read_declaration
from shapkeen.core.geometry import file_size
from shapkeen.core.geometry.codec_profiles import (
    PROFILES,
    Wanted,
    codec_profile_of,
    codec_profiles_of,
)
from tests.builders.media import SDR, write
from tests.core.geometry.test_levels import black

NTSC = Fraction(60000, 1001)


def profile(codec: str, name: str):
    return next(one for one in PROFILES if (one.codec, one.name) == (codec, name))


class Arithmetic(unittest.TestCase):
    def test_sizes(self) -> None:
        # 50 Mb/s for 15 min: 5.625 GB; 16 Mb/s + 320 kb/s for 3 min: 367.2 MB
        for rate, seconds, count in (
            (50e6, 900, 5.625e9),
            (16e6, 180, 360e6),
            (16.32e6, 180, 367.2e6),
            (45e6, 600, 3.375e9),
            (100e6, 60, 750e6),
            (8e6, 3600, 3.6e9),
            (120e6, 5400, 81e9),
        ):
            self.assertEqual(file_size.size_bytes(rate, seconds), count)
        # 4 GB for 15 min: 35.56 Mb/s; 4 GiB: 38.18 Mb/s
        self.assertAlmostEqual(file_size.most_bit_rate(4e9, 900) / 1e6, 35.56, 2)
        self.assertAlmostEqual(file_size.most_bit_rate(4 * 2**30, 900) / 1e6, 38.18, 2)

    def test_times_to_send(self) -> None:
        for count, line, seconds in (
            (5.625e9, 5e6, 9000),
            (5.625e9, 20e6, 2250),
            (360e6, 50e6, 57.6),
        ):
            self.assertAlmostEqual(file_size.sending_s(count, line), seconds)
        # with 90 % efficiency 5.625 GB at 20 Mb/s take 41 min 40 s
        self.assertAlmostEqual(file_size.sending_s(5.625e9, 20e6, 0.9), 2500)

    def test_bits_for_each_pixel(self) -> None:
        for rate, raster, frames, bits in (
            (100e6, (3840, 2160), NTSC, 0.20114),
            (50e6, (3840, 2160), Fraction(24), 0.25117),
            (16e6, (1920, 1080), Fraction(24000, 1001), 0.32182),
            (120e6, (7680, 4320), Fraction(60), 0.060282),
        ):
            self.assertAlmostEqual(file_size.bits_a_pixel(rate, raster, frames), bits, 5)

    def test_facts_of_the_trade(self) -> None:
        # common practice, no source: 25 s of UHD are about 3.8 GB in a mezzanine codec, 9 times
        # the delivery; 7 s of 8192×4320 2.5 GB; 90 frames/s for 59.94 material is 1.5 × real time
        uhd = profile("prores", "422").usual_rate((3840, 2160), NTSC)
        self.assertAlmostEqual(file_size.size_bytes(uhd, 25) / 1e9, 3.8, delta=0.2)
        wide = profile("prores", "422 HQ").usual_rate((8192, 4320), Fraction(24000, 1001))
        self.assertAlmostEqual(file_size.size_bytes(wide, 7) / 1e9, 2.5, delta=0.25)
        self.assertAlmostEqual(25 / file_size.encoding_s(round(25 * NTSC), 90), 1.5, 2)


class Carriers(unittest.TestCase):
    def test_depth_and_chroma_decide_first(self) -> None:
        wanted = Wanted((3840, 2160), Fraction(24), 10, "4:2:0", 50_000_000)
        said = {one.title: one for one in codec_profiles_of(wanted)}
        self.assertTrue(said["H.265 Main 10"].fits)
        self.assertIn("8 bits at most", said["H.264 High"].refusal)
        self.assertIn("4:2:2 only", said["ProRes 422"].refusal)
        self.assertTrue(said["VP9 2"].fits)
        self.assertIn(
            "10 bits and more",
            codec_profile_of(profile("vp9", "2"), replace(wanted, depth=8)).refusal,
        )
        finer = replace(wanted, chroma="4:2:2")
        self.assertIn("4:2:0 at most", codec_profile_of(profile("h265", "Main 10"), finer).refusal)
        self.assertTrue(codec_profile_of(profile("prores", "422 HQ"), finer).fits)

    def test_bit_rate_and_tier_choose_the_level(self) -> None:
        # H.264 tables: High at 1080p24: level 4 to 25 Mb/s, 4.1 to 62.5, then 5 to 168.75
        wanted = Wanted((1920, 1080), Fraction(24), 8, "4:2:0", 25_000_000)
        high = profile("h264", "High")
        for rate, level in ((25, "4"), (26, "4.1"), (62, "4.1"), (63, "5"), (169, "5.1")):
            found = codec_profile_of(high, replace(wanted, bit_rate=rate * 10**6))
            self.assertEqual(found.level, level, rate)
        # H.265 table A.8: UHD 24 level 5 Main 25 Mb/s, High 100; 59.94 at 100 Mb/s is 5.1 High
        uhd = Wanted((3840, 2160), Fraction(24), 10, "4:2:0", 25_000_000)
        main10 = profile("h265", "Main 10")
        for rate, frames, level in (
            (25, 24, ("5", "main")),
            (26, 24, ("5", "high")),
            (101, 24, ("5.1", "high")),
            (100, NTSC, ("5.1", "high")),
        ):
            found = codec_profile_of(
                main10, replace(uhd, bit_rate=rate * 10**6, rate=Fraction(frames))
            )
            self.assertEqual((found.level, found.tier), level, rate)

    def test_what_is_too_large_is_refused_with_the_limit(self) -> None:
        huge = Wanted((8192, 4320), Fraction(120), 8, "4:2:0", 50_000_000)
        self.assertIn(
            "no level is large enough",
            codec_profile_of(profile("av1", "Main"), replace(huge, rate=Fraction(240))).refusal,
        )
        fat = replace(huge, raster=(1920, 1080), rate=Fraction(24), bit_rate=1_200_000_000)
        self.assertIn("ends at 1000", codec_profile_of(profile("h264", "High"), fat).refusal)

    def test_levels_by_bit_rate_are_those_that_x264_and_x265_write(self) -> None:
        quick, quiet = ("preset", "ultrafast"), "log-level=error"
        for codec, name, rate in (
            ("libx264", "Main", 19),
            ("libx264", "Main", 49),
            ("libx264", "Main", 120),
            ("libx265", "Main", 11),
            ("libx265", "Main", 29),
            ("libx265", "Main", 45),
        ):
            limit = f"vbv-maxrate={rate * 1000}:vbv-bufsize={rate * 1000}"
            params = (
                ("x264-params", limit)
                if codec == "libx264"
                else ("x265-params", f"{quiet}:{limit}:bitrate={rate * 1000}")
            )
            options = (quick, params) + ((("profile", "main"),) if codec == "libx264" else ())
            coding = replace(
                SDR, codec=codec, options=options, rate=Fraction(24), ending=".ts", flags=()
            )
            with self.subTest(codec=codec, rate=rate):
                found = read_declaration(
                    write(f"lvrate{rate}", [black((1920, 1080))] * 2, coding)
                ).video
                wanted = Wanted((1920, 1080), Fraction(24), 8, "4:2:0", rate * 10**6)
                ours = codec_profile_of(profile(found.codec, name), wanted)
                self.assertEqual((found.level, found.tier or ""), (ours.level, ours.tier))
