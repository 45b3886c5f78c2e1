"""Settings that came back otherwise: the returned file against the settings sheet."""

import unittest
from dataclasses import replace
from fractions import Fraction

from shapkeen.core.declared import AudioTrack
from shapkeen.core.judged.settings_check import check_settings
from shapkeen.core.judged.survival import judge_survival
from shapkeen.core.promised.planning import choices_from, make_plan, sheet_of, subject_of
from shapkeen.core.promised.specification import shipped_specifications
from tests.builders.evidence import PLACE, declaration, evidence

SPEC = next(one for one in shipped_specifications() if one.key == "harbourlight-premiere")
SOUND = (AudioTrack(codec="aac", sample_rate_hz=48_000, channels=2),)
UHD = {"raster": (3840, 2160)}


def file_of(name: str, *, sound: bool = True, bit_rate: int = 100_000_000, **more: object):
    made = declaration(name=name, both=UHD, **more)
    video = replace(made.video, profile="Main 10", bit_rate=bit_rate)
    return replace(made, video=video, audio=SOUND if sound else ())


MASTER = file_of("master.mov")


def came(export: object, **more: object) -> dict[str, tuple[str, str, bool]]:
    """Return setting → state, what was found, and whether it is as the master has it."""
    subject = subject_of(MASTER)
    sheet = sheet_of(make_plan(subject, SPEC, choices_from(more.pop("fields", {}), subject, SPEC)))
    lines = check_settings(sheet, export, MASTER, more.get("survival"))
    return {line.setting.name: (line.state, line.found, line.like_master) for line in lines}


class SettingCheck(unittest.TestCase):
    def otherwise(self, export: object, **more: object) -> dict[str, tuple[str, bool]]:
        found = came(export, **more)
        return {k: v[1:] for k, v in found.items() if v[0] == "otherwise"}

    def test_an_export_made_as_the_sheet_says_has_none(self) -> None:
        self.assertEqual(self.otherwise(file_of("export.mp4")), {})
        self.assertEqual(came(file_of("export.mp4"))["Bit rate"][0], "as set")

    def test_what_silently_reverted_is_named(self) -> None:
        # common practice, no source: after one change others revert: rate, depth, tags, wrapper
        rated = declaration(both=UHD | {"frame_rate": (25, 1)})
        for export, name, found in (
            (rated, "Frame rate", "25 frames/s"),
            (declaration(both=UHD | {"bit_depth": 8}), "Bit depth", "8 bits"),
            (declaration(both={"raster": (1920, 1080)}), "Frame size", "1920×1080"),
            (declaration(both=UHD | {"transfer": None}), "Transfer function", "not stated"),
            (declaration(both=UHD | {"range": "full"}), "Range", "full"),
            (
                declaration(both=UHD, stream={"content_light": None}),
                "MaxCLL and MaxFALL",
                "not stated",
            ),
            (declaration(both=UHD, index_first=False), "Index", "last"),
            (declaration(both=UHD, frames=60), "Mark in and out", "60 frames"),
            (declaration(both=UHD | {"pixel_aspect": (4, 3)}), "Pixel aspect", "4:3"),
        ):
            with self.subTest(name=name):
                video = replace(export.video, profile="Main 10")
                told = self.otherwise(replace(export, video=video, audio=SOUND))
                self.assertEqual(set(told), {name})
                self.assertEqual(told[name][0], found)

    def test_codec_profile_wrapper_and_sound(self) -> None:
        export = file_of("export.avi", sound=False)
        export = replace(
            export,
            file=replace(export.file, wrapper="avi"),
            video=replace(export.video, codec="h264", profile="High"),
        )
        found = self.otherwise(export)
        self.assertEqual(set(found), {"Codec", "Profile", "Wrapper", "Sound codec"})
        self.assertEqual(found["Sound codec"][0], "no sound")

    def test_a_setting_that_was_not_made_is_as_the_master_has_it(self) -> None:
        # 24 to 25 by speed keeps the frames; made anew for the rate there would be 50
        rate, frames = ("24 frames/s", True), ("48 frames", True)
        for way, wanted in (
            ("speed", {"Frame rate": rate}),
            ("frames", {"Frame rate": rate, "Mark in and out": frames}),
        ):
            fields = {"rate": "25/1", "rate_way": way}
            self.assertEqual(self.otherwise(file_of("export.mp4"), fields=fields), wanted)

    def test_witnesses_that_differ_are_both_told(self) -> None:
        export = file_of("export.mp4", wrapper={"transfer": 1})
        self.assertEqual(self.otherwise(export), {"Transfer function": ("PQ and BT.709", False)})

    def test_a_low_bit_rate_proves_nothing_and_a_high_one_does(self) -> None:
        self.assertEqual(came(file_of("e.mp4", bit_rate=9_000_000))["Bit rate"][0], "not told")
        found = self.otherwise(file_of("e.mp4", bit_rate=400_000_000))
        self.assertEqual(found, {"Bit rate": ("400 Mb/s", False)})

    def test_framing_is_told_by_the_picture(self) -> None:
        moved = evidence(registration=replace(PLACE, left=-96.0, width=2112.0))
        found = came(file_of("export.mp4"), survival=judge_survival(moved))
        self.assertEqual(found["Framing"][0], "otherwise")
        self.assertEqual(came(file_of("export.mp4"))["Framing"][0], "not told")

    def test_rates_are_compared_exactly(self) -> None:
        export = file_of(
            "e.mp4", wrapper={"frame_rate": (24000, 1001)}, stream={"frame_rate": (24000, 1001)}
        )
        self.assertIn("Frame rate", self.otherwise(export))
        self.assertEqual(subject_of(MASTER).rate, Fraction(24))
