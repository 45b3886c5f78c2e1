"""Plans: what follows from a master, a specification and a few choices."""

import json
import unittest
from dataclasses import replace
from fractions import Fraction

from shapkeen.core.errors import UsageError
from shapkeen.core.promised import promise_from_json, promise_from_master, promise_to_json
from shapkeen.core.promised.planning import (
    Plan,
    Shot,
    Subject,
    choices_from,
    make_plan,
    promise_of_plan,
    sheet_from_object,
    sheet_of,
    sheet_to_object,
    subject_of,
    warnings_of,
)
from shapkeen.core.promised.specification import shipped_specifications
from tests.builders.evidence import declaration

SPECS = {one.key: one for one in shipped_specifications()}
MASTER = Subject(
    name="master.mov",
    raster=(3840, 2160),
    aspect=(1, 1),
    rate=Fraction(24),
    frames=2400,
    duration_s=100.0,
    codec="prores",
    wrapper="mov",
    transfer=1,
    primaries=1,
    bit_depth=10,
    chroma="4:2:2",
    full_range=False,
    projection="",
    stereo="",
    mastered_on=None,
    content_light=None,
)
NEARLY_60 = replace(MASTER, rate=Fraction(60000, 1001))
HD = replace(MASTER, raster=(1920, 1080))
SQUEEZED = replace(MASTER, aspect=(4, 3))


def planned(subject: Subject, key: str, shots: tuple[Shot, ...] = (), **fields: str) -> Plan:
    spec = SPECS[key]
    return make_plan(subject, spec, choices_from(fields, subject, spec, shots))


def words(plan: Plan) -> tuple[str, str]:
    before, after = warnings_of(plan)
    return " ".join(one.text for one in before), " ".join(one.text for one in after)


class Geometry(unittest.TestCase):
    def test_anamorphic_masters_are_resampled_or_keep_their_flag(self) -> None:
        # geometry.json: 3840×2160 at 4:3 is 3840×1620 or 5120×2160 in square samples
        plan = planned(SQUEEZED, "breakwater-stream")
        self.assertEqual((plan.layout.frame, plan.layout.aspect), ((3840, 1620), (1, 1)))
        self.assertAlmostEqual(float(plan.layout.shape), 64 / 27, 4)
        kept = planned(SQUEEZED, "lantern-archive")
        self.assertEqual((kept.layout.frame, kept.layout.aspect), ((3840, 2160), (4, 3)))
        wide = planned(SQUEEZED, "lantern-archive", squeeze="resample", size="5120x2160")
        self.assertEqual((wide.layout.frame, wide.layout.enlargement), ((5120, 2160), 1))

    def test_every_factor_is_shown_in_its_right_shape(self) -> None:
        for aspect in ((5, 4), (4, 3), (3, 2), (8, 5), (9, 5), (2, 1)):
            for key in SPECS:
                plan = planned(replace(MASTER, aspect=aspect), key)
                with self.subTest(aspect=aspect, key=key):
                    self.assertAlmostEqual(plan.layout.squash, 1, delta=0.005)
                    self.assertTrue(plan.layout.crop.lies_in(plan.layout.source))
                    self.assertTrue(plan.layout.picture.lies_in(plan.layout.cell))

    def test_upright_is_filled_and_cut(self) -> None:
        # common practice: 4:5 from 16:9 by a zoom of 2.22, 45 % kept; 720×900 from 720 lines
        plan = planned(HD, "foghorn-shorts", size="1080x1350")
        self.assertEqual(plan.layout.crop.size, (864, 1080))
        self.assertAlmostEqual(plan.layout.zoom, 2.222, 3)
        self.assertAlmostEqual(plan.layout.kept_share, 0.45, 3)
        self.assertEqual(
            planned(replace(HD, raster=(1280, 720)), "foghorn-shorts").layout.frame, (720, 900)
        )

    def test_wide_from_16_to_9_is_cut_at_full_size(self) -> None:
        plan = planned(MASTER, "cormorant-screens")
        self.assertEqual((plan.layout.frame, plan.layout.crop.size), ((3840, 1600), (3840, 1600)))
        self.assertEqual((plan.layout.crop.top, plan.layout.enlargement), (280, 1))
        moved = planned(MASTER, "cormorant-screens", down="0")
        self.assertEqual(moved.layout.crop.top, 0)

    def test_bars_when_chosen(self) -> None:
        wide = replace(MASTER, raster=(3840, 1600))
        plan = planned(wide, "harbourlight-premiere", mode="bars")
        self.assertEqual(plan.layout.bars, {"top": 280, "bottom": 280, "left": 0, "right": 0})
        self.assertEqual(planned(wide, "harbourlight-premiere").layout.frame, (3840, 1600))

    def test_a_cut_larger_than_the_master_is_refused_with_what_would_do(self) -> None:
        with self.assertRaisesRegex(UsageError, "larger than the master's 1920×1080"):
            planned(HD, "cormorant-screens", mode="cut", size="3840x1600")

    def test_two_eyes_are_fitted_each(self) -> None:
        full = replace(MASTER, raster=(3840, 1080), stereo="left-right")
        plan = planned(full, "puffin-glasses", packing="side by side, half")
        self.assertEqual((plan.layout.frame, plan.layout.cell), ((1920, 1080), (960, 1080)))
        self.assertEqual((plan.layout.has_bars, plan.layout.squash), (False, 1.0))
        over = planned(full, "puffin-glasses", packing="top and bottom, half")
        self.assertEqual((over.layout.cell, over.stereo), ((1920, 540), "top-bottom"))

    def test_spheres_have_sizes_of_their_own(self) -> None:
        sphere = replace(MASTER, raster=(4096, 2048), projection="equirectangular")
        free = replace(SPECS["vellmar-dome"], rasters=())
        choices = choices_from({}, sphere, free)
        plan = make_plan(sphere, free, choices)
        self.assertEqual(plan.layout.frame, (4096, 2048))
        # arithmetic of equirectangular pictures: 4096 across hold 1024 in 90°, 0.0879° each
        self.assertIn("a view of 90° shows 1024: 0.088° a sample", words(plan)[1])

    def test_enlarging_by_two_is_preferred(self) -> None:
        # common practice: 1280×720 → 2560×1440 is exactly 2, → 3840×2160 is 3 and poor
        plan = planned(replace(MASTER, raster=(1280, 720)), "breakwater-stream")
        self.assertEqual((plan.layout.frame, plan.layout.enlargement), ((2560, 1440), 2))
        self.assertEqual(planned(HD, "breakwater-stream").layout.frame, (3840, 2160))


class Cautions(unittest.TestCase):
    def test_a_master_that_fits_has_none(self) -> None:
        whole = replace(
            MASTER,
            transfer=16,
            primaries=9,
            mastered_on={"max": 1000},
            content_light={"max_cll": 900},
            codec="h265",
            wrapper="mp4",
        )
        self.assertEqual(words(planned(whole, "harbourlight-premiere")), ("", ""))

    def test_what_goes_wrong_if_nothing_is_done(self) -> None:
        for subject, key, text in (
            (SQUEEZED, "breakwater-stream", "shown 25 % too narrow"),
            (MASTER, "foghorn-shorts", "in a frame of 4:5"),
            (HD, "breakwater-stream", "Below 1440 lines"),
            (replace(MASTER, transfer=16), "foghorn-shorts", "flat and milky"),
            (replace(MASTER, transfer=18), "harbourlight-premiere", "without conversion"),
            (replace(MASTER, transfer=16), "harbourlight-premiere", "mastering display nor MaxCLL"),
            (MASTER, "harbourlight-premiere", "SDR master"),
            (replace(MASTER, rate=Fraction(60)), "foghorn-shorts", "60 frames/s are not taken"),
            (MASTER, "foghorn-shorts", "100.0 s are longer than the 60 s"),
            (MASTER, "breakwater-stream", "black window"),
            (replace(MASTER, raster=(4096, 2048)), "vellmar-dome", "poles torn"),
            (MASTER, "vellmar-dome", "states none"),
            (MASTER, "puffin-glasses", "the master states one"),
            (MASTER, "tidewater-club", "takes fine structure away"),
        ):
            with self.subTest(key=key, text=text):
                self.assertIn(text, words(planned(subject, key))[0])

    def test_the_measure_against_few_lines_is_a_size_that_has_them(self) -> None:
        def measure(subject: Subject, **fields: str) -> str:
            before, _ = warnings_of(planned(subject, "breakwater-stream", **fields))
            return next(one.measure for one in before if "Below 1440" in one.text)

        small = replace(HD, raster=(1280, 720))
        self.assertIn("2560×1440, by exactly 2", measure(small, size="1920x1080"))
        # 1280×720 at 4:3 is 2.37:1: only 3840×1620 has as many lines
        squeezed = replace(small, aspect=(4, 3))
        self.assertIn("3840×1620, by 2.25", measure(squeezed))
        cut = replace(HD, raster=(1920, 1088))
        self.assertIn("2560×1440", measure(cut, mode="cut", size="1920x1080"))
        wide = replace(small, raster=(1280, 320))
        self.assertIn("No size that is taken", measure(wide))

    def test_what_a_plan_still_brings(self) -> None:
        small = replace(MASTER, raster=(1280, 720))
        for subject, key, fields, text in (
            (HD, "breakwater-stream", {"size": "2560x1440"}, "1.333 is not whole"),
            (small, "breakwater-stream", {"size": "3840x2160"}, "by 3 is seen as poor"),
            (HD, "breakwater-stream", {}, "by exactly 2 keeps the grid"),
            (HD, "breakwater-stream", {"bit_rate": "8"}, "below the 16 Mb/s"),
            (HD, "breakwater-stream", {"bit_rate": "90"}, "above the 80 Mb/s"),
            (HD, "foghorn-shorts", {"bit_rate": "20"}, "at most 150 MB are taken"),
            (SQUEEZED, "breakwater-stream", {"squeeze": "flag"}, "square samples are asked for"),
            (MASTER, "cormorant-screens", {"mode": "bars"}, "Bars inside the picture"),
            (MASTER, "cormorant-screens", {"mode": "own"}, "12:5 is asked for"),
            (MASTER, "vellmar-dome", {"rate": "60000/1001"}, "stutters"),
            (NEARLY_60, "vellmar-dome", {"rate_way": "frames"}, "every thousandth"),
            # 3.6 s an hour: 1/1000 of 3600 s
            (NEARLY_60, "vellmar-dome", {}, "drifts by 3.6 s an hour"),
        ):
            with self.subTest(text=text):
                self.assertIn(text, words(planned(subject, key, **fields))[1])


class Fields(unittest.TestCase):
    def test_bad_fields_are_named(self) -> None:
        for fields, where in (
            ({"bit_rate": "fast"}, "bit_rate"),
            ({"bit_rate": "0"}, "bit_rate"),
            ({"down": "101"}, "down"),
            ({"rate": "24/0"}, "rate"),
            ({"rate": "1e999999999"}, "rate"),
            ({"bit_rate": "nan"}, "bit_rate"),
            ({"line_rate": "-2"}, "line_rate"),
        ):
            with self.assertRaises(UsageError) as caught:
                planned(MASTER, "breakwater-stream", **fields)
            self.assertEqual(caught.exception.where, where)

    def test_shots_must_not_overlap_or_end_after_the_master(self) -> None:
        def shots(*ends: tuple[int, int]) -> tuple[Shot, ...]:
            return tuple(Shot(first=a, last=b, across=0.2, down=0.5) for a, b in ends)

        for wrong, text in (
            (shots((0, 50), (50, 60)), "overlap"),
            (shots((2390, 2400)), "last frame is 2399"),
            (shots((9, 3)), "no length"),
        ):
            with self.assertRaisesRegex(UsageError, text):
                planned(MASTER, "foghorn-shorts", wrong)
        for across in (float("nan"), 1.01, -0.5):
            beside = (Shot(first=0, last=9, across=across, down=0.5),)
            with self.assertRaisesRegex(UsageError, "0 to 100 per cent"):
                planned(MASTER, "foghorn-shorts", beside)
        plan = planned(MASTER, "foghorn-shorts", shots((100, 200), (0, 99)))
        self.assertEqual([shot.first for shot in plan.choices.shots], [0, 100])
        framing = promise_of_plan(plan).value("framing")
        self.assertEqual(len(framing["shots"]), 2)
        # 1728 of 3840 samples wide: a fifth of what is free
        self.assertEqual(framing["shots"][0]["crop"], (422, 0, 1728, 2160))


class Results(unittest.TestCase):
    def test_the_promise_is_one_and_fits_the_master(self) -> None:
        master = declaration(
            both={
                "raster": (3840, 2160),
                "transfer": 18,
                "primaries": 9,
                "matrix": 9,
                "frame_rate": (24, 1),
                "pixel_aspect": (4, 3),
            }
        )
        for key in SPECS:
            with self.subTest(key=key):
                promise = promise_of_plan(planned(subject_of(master), key))
                again = promise_from_json(promise_to_json(promise), origin="again")
                self.assertEqual(
                    {n: p.value for n, p in again.traits.items()},
                    {n: p.value for n, p in promise.traits.items()},
                )
                promise_from_master(master, overrides=again)  # raises where it cannot be kept
        made = promise_of_plan(planned(subject_of(master), "harbourlight-premiere"))
        self.assertEqual((made.value("transfer"), made.traits["transfer"].converted_from), (16, 18))
        self.assertEqual(made.traits["raster"].converted_from, (3840, 2160))

    def test_the_sheet_names_every_setting_and_comes_back_as_it_was(self) -> None:
        sheet = sheet_of(planned(SQUEEZED, "harbourlight-premiere"))
        names = [setting.name for setting in sheet.settings]
        for name in (
            "Frame size",
            "Pixel aspect",
            "Scaling",
            "Frame rate",
            "Mark in and out",
            "Primaries",
            "Matrix coefficients",
            "Codec",
            "Profile",
            "Level",
            "Bit depth",
            "Bit rate",
            "Transfer function",
            "Range",
            "Mastering display",
            "Sound codec",
            "Wrapper",
            "Index",
        ):
            self.assertIn(name, names)
        self.assertEqual(sheet_from_object(json.loads(json.dumps(sheet_to_object(sheet)))), sheet)

    def test_24_to_25_by_speed_keeps_every_frame(self) -> None:
        # 25 ÷ 24: 104.17 %, an hour becomes 57.6 minutes, 0.71 semitones up (12 log2 of it)
        plan = planned(MASTER, "breakwater-stream", rate="25/1")
        self.assertEqual((plan.frames, plan.changes_speed), (2400, True))
        self.assertAlmostEqual(plan.file_size.duration_s, 96.0)
        self.assertIn("an hour becomes 57.6 minutes, and the sound 0.71 semitones", words(plan)[1])
        values = {setting.name: setting.value for setting in sheet_of(plan).settings}
        self.assertEqual(values["Speed"], "104.2 %, each frame of the master once")
        self.assertIn("2400 in all", values["Mark in and out"])
        promised = promise_of_plan(plan).traits["frame_rate"]
        self.assertEqual((promised.value, promised.converted_from), ((25, 1), (24, 1)))
        anew = planned(MASTER, "breakwater-stream", rate="25/1", rate_way="frames")
        self.assertEqual((anew.frames, anew.changes_speed), (2500, False))
        self.assertIn("movement stutters", words(anew)[1])
        # twice as fast is no speed-up that anyone calls one
        self.assertFalse(planned(MASTER, "breakwater-stream", rate="48/1").may_change_speed)

    def test_levels_stand_in_the_sheets_own_depth(self) -> None:
        # ITU-R BT.709-6 and BT.2100-2: 16 and 235 times 2 to the power of depth - 8
        found = set()
        for spec in SPECS.values():
            plan = planned(MASTER, spec.key)
            line = next(one for one in sheet_of(plan).settings if one.name == "Range")
            levels = {8: "16 to 235 in 8 bits", 10: "64 to 940 in 10 bits"}[spec.bit_depth]
            self.assertEqual(line.why, f"levels {levels}")
            found.add(spec.bit_depth)
        self.assertEqual(found, {8, 10})

    def test_every_sheet_states_all_three_code_points(self) -> None:
        for matrix, primaries, told in ((1, 1, 1), (0, 12, 1), (None, 9, 9)):
            plan = planned(replace(MASTER, matrix=matrix, primaries=primaries), "lantern-archive")
            facts = {one.fact: one.wanted for one in sheet_of(plan).settings}
            self.assertEqual(facts["matrix"], told)
        silent = replace(MASTER, transfer=None, primaries=None)
        names = [one.name for one in sheet_of(planned(silent, "lantern-archive")).settings]
        for name in ("Transfer function", "Primaries", "Matrix coefficients"):
            self.assertIn(name, names)

    def test_no_raster_or_an_impossible_one_cannot_be_planned(self) -> None:
        for both in (
            {"raster": None},
            {"raster": (0, 1080)},
            {"raster": (1920, 1080), "pixel_aspect": (0, 0)},
        ):
            with self.assertRaises(UsageError):
                subject_of(declaration(both=both))
