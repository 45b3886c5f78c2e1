"""Shape: bars and cuts by promise, each witness's own pixel aspect, clean aperture, and geometry
that cannot be."""

import unittest
from dataclasses import replace

from shapkeen.core.errors import UsageError
from shapkeen.core.judged.survival import judge_survival
from shapkeen.core.measured import Astray, TimeEvent
from shapkeen.core.promised import promise_from_json, promise_from_master
from tests.builders.evidence import DETAIL, PLACE, TIMING, declaration, evidence, explicit
from tests.core.judged.test_rules import causes, verdicts
from tests.reference import load

WHOLE = {"width": (1920, 1), "height": (1080, 1), "h_offset": (0, 1), "v_offset": (0, 1)}
NARROW = WHOLE | {"width": (1440, 1)}
BARS = {"top": 140, "bottom": 140, "left": 0, "right": 0}
BOXED = replace(PLACE, top=140.0, height=800.0)


def wide(**more: object):
    """Return evidence of a 1920×800 master delivered as 1920×1080, bars promised."""
    wanted = {
        "raster": explicit((1920, 1080)),
        "framing": explicit({"crop": (0, 0, 1920, 800), "bars": BARS}),
    }
    master = declaration(both={"raster": (1920, 800)}, name="master.mov")
    return evidence(
        master=master, promise=wanted, master_raster=(1920, 800), **({"registration": BOXED} | more)
    )


class Framing(unittest.TestCase):
    def test_promised_bars_are_no_injury(self) -> None:
        self.assertEqual((causes(wide()), verdicts(wide())["framing"]), ({}, "kept"))

    def test_bars_beyond_the_promised_ones_are(self) -> None:
        smaller = replace(PLACE, top=200.0, height=680.0, left=144.0, width=1632.0)
        found = causes(wide(registration=smaller))
        self.assertEqual(found["windowboxed"], {"top": 60, "bottom": 60, "left": 144, "right": 144})

    def test_missing_bars_are_told_and_no_cut_is_claimed(self) -> None:
        made = wide(registration=replace(PLACE, height=1080.0))
        self.assertEqual(verdicts(made)["framing"], "bent")
        self.assertEqual(set(causes(made)), {"stretched"})

    def test_a_promised_cut_that_lies_elsewhere_is_no_bar(self) -> None:
        # 640×360 out of 1920×1080 at the left; delivered from the middle, three times as large
        wanted = {"framing": explicit({"crop": (320, 360, 640, 360)})}
        middle = replace(PLACE, left=-1920.0, top=-1080.0, width=5760.0, height=3240.0)
        found = causes(evidence(promise=wanted, registration=middle, detail=None))
        self.assertEqual(found["cropped"], {"top": 0, "bottom": 0, "left": 320, "right": 0})
        right = replace(middle, left=-960.0)
        self.assertEqual(causes(evidence(promise=wanted, registration=right, detail=None)), {})


class Consequences(unittest.TestCase):
    ENLARGED = replace(
        DETAIL,
        scale=(1.25, 1.25),
        fits=tuple(
            replace(DETAIL.fits[0], act=f"enlarged-{kernel}", residual=left, kernel=kernel)
            for kernel, left in (("cubic", 2.0), ("linear", 6.0))
        ),
    )

    def test_a_cut_that_fills_the_frame_explains_the_enlargement_it_brings(self) -> None:
        # docs/contract.md: the act before its consequences
        zoomed = replace(PLACE, left=-240.0, top=-135.0, width=2400.0, height=1350.0)
        made = evidence(registration=zoomed, detail=self.ENLARGED)
        found = judge_survival(made).causes
        self.assertEqual([cause.id for cause in found], ["cropped"])
        self.assertIn("detail", found[0].traits)
        self.assertIn("left 192", found[0].why)

    def test_a_cut_explains_no_blur(self) -> None:
        moved = replace(PLACE, left=-48.0, top=-27.0, width=2016.0, height=1134.0)
        blur = replace(DETAIL.fits[0], act="softened", residual=1.0, values={"sigma": 1.2})
        others = [
            replace(DETAIL.fits[0], act=act, residual=left, kernel="cubic")
            for act, left in (
                ("identity", 12.0),
                ("detail-below-raster", 8.0),
                ("upscale-nearest", 9.0),
            )
        ]
        soft = replace(DETAIL, transfer=0.3, fits=(blur, *others))
        found = {
            c.id: c.traits for c in judge_survival(evidence(registration=moved, detail=soft)).causes
        }
        self.assertNotIn("detail", found["cropped"])
        self.assertIn("detail", found["softened"])

    def test_an_enlargement_without_a_cut_is_one(self) -> None:
        made = evidence(
            registration=replace(PLACE, width=2400.0, height=1350.0),
            export_raster=(2400, 1350),
            export=declaration(both={"raster": (2400, 1350)}),
            detail=self.ENLARGED,
        )
        self.assertEqual(set(causes(made)), {"upscale-noninteger"})

    def test_a_quarter_turn_explains_the_exchanged_sides(self) -> None:
        made = evidence(
            registration=replace(PLACE, turn=90, width=1080.0, height=1920.0),
            export_raster=(1080, 1920),
            export=declaration(both={"raster": (1080, 1920)}),
            depth=None,
        )
        self.assertEqual(causes(made), {"rotated": {"degrees": 90}})


class AstrayFrames(unittest.TestCase):
    ASTRAY = (Astray(master_frame=30, export_frame=30, dx=120.0, dy=0.0),)

    def test_a_frame_that_lies_elsewhere_is_named(self) -> None:
        made = evidence(astray=self.ASTRAY)
        self.assertEqual(causes(made), {"shifted": {"dx": 120, "dy": 0, "at": 30}})
        self.assertEqual(causes(evidence(astray=(replace(self.ASTRAY[0], dx=4.0),))), {})

    def test_nor_of_a_picture_so_blown_out_that_places_are_rough(self) -> None:
        # a meadow clipped to 100 cd/m²: a frame seemed two samples of 360 higher
        rough = replace(PLACE, likeness=0.85)
        near, far = (replace(self.ASTRAY[0], dx=dx) for dx in (12.0, 120.0))
        self.assertIn("shifted", causes(evidence(astray=(near,))))
        self.assertNotIn("shifted", causes(evidence(astray=(near,), registration=rough)))
        self.assertIn("shifted", causes(evidence(astray=(far,), registration=rough)))

    def test_of_frames_that_are_not_surely_paired_nothing_is_said(self) -> None:
        # a pan lies elsewhere in the frame before and after
        event = TimeEvent(29, 30, 1)
        for timing in (replace(TIMING, repeated=(event,)), replace(TIMING, blended=(30,)), None):
            self.assertNotIn("shifted", causes(evidence(astray=self.ASTRAY, timing=timing)))


class PixelAspects(unittest.TestCase):
    def test_every_factor_of_the_trade(self) -> None:
        # geometry.json: 1.25 to 2.0; the flag kept, dropped, doubled, and resampled by promise
        for _, factor, *_ in load("geometry")["anamorphic"]["rows"]:
            flag = {"pixel_aspect": tuple(factor)}
            ratio = factor[0] / factor[1]
            broad = replace(PLACE, width=1920 * ratio)
            size = {"export_raster": (round(1920 * ratio), 1080), "registration": broad}
            raster = {"raster": size["export_raster"]}
            master = declaration(both=flag, name="master.mov")
            square = {name: explicit(value) for name, value in raster.items()}
            square["pixel_aspect"] = explicit((1, 1), converted_from=tuple(factor))
            with self.subTest(factor=factor):
                self.assertEqual(causes(evidence(master=master, export=declaration(both=flag))), {})
                dropped = causes(evidence(master=master))
                self.assertEqual(dropped, {"squeeze-unflagged": {"ratio": round(1 / ratio, 4)}})
                doubled = evidence(master=master, export=declaration(both=flag | raster), **size)
                self.assertEqual(causes(doubled), {"squeeze-doubled": {"ratio": round(ratio, 4)}})
                resampled = evidence(
                    master=master, export=declaration(both=raster), promise=square, **size
                )
                self.assertEqual(causes(resampled), {})

    def test_a_witness_that_shows_another_shape_is_told(self) -> None:
        flag = {"pixel_aspect": (4, 3)}
        master = declaration(both=flag, name="master.mov")
        both = declaration(wrapper=flag, stream={"pixel_aspect": (1, 1)})
        made = judge_survival(evidence(master=master, export=both))
        shape = next(v for v in made.verdicts if v.trait == "shown_shape")
        self.assertEqual(shape.verdict, "bent")
        self.assertIn("obey the stream show everything 25.0 % narrower", shape.why)
        self.assertEqual([cause.id for cause in made.causes], ["tag-conflict"])
        self.assertIn("shown_shape", made.causes[0].traits)
        one = declaration(wrapper=flag)
        self.assertEqual(verdicts(evidence(master=master, export=one))["shown_shape"], "kept")


class CleanAperture(unittest.TestCase):
    # ISO/IEC 14496-12 12.1.4: offsets are of the centre
    def verdict(self, master: dict | None, export: dict | None) -> str | None:
        made = evidence(
            master=declaration(wrapper={"clean_aperture": master}, name="master.mov"),
            export=declaration(wrapper={"clean_aperture": export}),
        )
        return verdicts(made).get("clean_aperture")

    def test_a_part_that_players_cut_off_is_lost_though_the_master_is_silent(self) -> None:
        self.assertEqual(self.verdict(None, NARROW), "lost")
        self.assertIsNone(self.verdict(None, None))
        self.assertEqual(self.verdict(None, WHOLE), "kept")

    def test_the_whole_raster_goes_without_saying(self) -> None:
        self.assertEqual(self.verdict(WHOLE, None), "kept")
        self.assertEqual(self.verdict(NARROW, NARROW), "kept")

    def test_a_dropped_or_moved_part_is_lost(self) -> None:
        self.assertEqual(self.verdict(NARROW, None), "lost")
        self.assertEqual(self.verdict(NARROW, NARROW | {"h_offset": (40, 1)}), "lost")


class Sharpening(unittest.TestCase):
    STRONGER = replace(
        DETAIL,
        transfer=1.5,
        fits=(
            replace(DETAIL.fits[0], act="oversharpened", residual=1.0, values={"amount": 0.5}),
            replace(DETAIL.fits[0], residual=12.0),
        ),
    )

    def test_unpromised_it_is_an_injury(self) -> None:
        self.assertEqual(set(causes(evidence(detail=self.STRONGER))), {"oversharpened"})

    def test_promised_it_is_none_and_missing_it_is_told(self) -> None:
        wanted = {"detail": explicit("sharpened")}
        made = evidence(promise=wanted, detail=self.STRONGER)
        self.assertEqual((causes(made), verdicts(made)["detail"]), ({}, "kept"))
        self.assertEqual(verdicts(evidence(promise=wanted))["detail"], "bent")


class Impossible(unittest.TestCase):
    def refused(self, **traits: object) -> UsageError:
        import json

        text = json.dumps({"schema": "shapkeen.promise/1", "traits": traits})
        with self.assertRaises(UsageError) as caught:
            promise_from_master(
                declaration(name="master.mov"), overrides=promise_from_json(text, origin="test")
            )
        return caught.exception

    def test_geometry_that_cannot_be_is_refused_with_its_place(self) -> None:
        for traits, place, words in (
            ({"raster": {"value": [0, 1080]}}, "traits/raster/value", "must be"),
            ({"raster": {"value": [1919, 1080]}}, "traits/raster", "even width and height"),
            ({"pixel_aspect": {"value": [0, 0]}}, "traits/pixel_aspect/value", "above 0"),
            ({"framing": {"value": {"crop": [0, 0, 2000, 1080]}}}, "traits/framing", "1920×1080"),
            ({"framing": {"value": {"crop": [10, 0, 1920, 1080]}}}, "traits/framing", "lie in"),
            ({"framing": {"value": {"crop": [0, 0, 0, 0]}}}, "traits/framing/value", "above 0"),
            ({"framing": {"value": {"crop": [-8, 0, 64, 64]}}}, "traits/framing/value", "above 0"),
            ({"framing": {"value": {"crop": [0, 0, 8]}}}, "traits/framing/value", "above 0"),
            (
                {"framing": {"value": {"crop": [0, 0, 8, 8], "bars": {"top": -1}}}},
                "traits/framing/value",
                "whole samples",
            ),
            (
                {"framing": {"value": {"crop": [0, 0, 8, 8], "shots": [{"first": 1}]}}},
                "traits/framing/value",
                "first and a last frame",
            ),
            (
                {
                    "framing": {
                        "value": {
                            "crop": [0, 0, 8, 8],
                            "shots": [{"first": "0", "last": 9, "crop": [0, 0, 8, 8]}],
                        }
                    }
                },
                "traits/framing/value",
                "first and a last frame",
            ),
            ({"detail": {"value": "crisp"}}, "traits/detail/value", "sharpened"),
        ):
            with self.subTest(traits=traits):
                error = self.refused(**traits)
                self.assertEqual(error.where, place)
                self.assertIn(words, error.text)
