"""Verdicts trait by trait, from evidence made by hand.

The rules: docs/contract.md "what survived" and its fine points, docs/checks.md section 9.
"""

import unittest
from dataclasses import replace

from shapkeen.core.declared import Said
from shapkeen.core.judged.evidence import Evidence, is_covered
from shapkeen.core.judged.survival import judge_survival
from shapkeen.core.measured import (
    Bars,
    DepthUse,
    DetailCurve,
    DetailFit,
    HighlightEdge,
    StereoFindings,
    StereoMoment,
    TimeEvent,
    ViewShift,
)
from shapkeen.core.promised import stated_by
from tests.builders.evidence import (
    CODES,
    DETAIL,
    LIGHT,
    PLACE,
    SURVEY,
    TIMING,
    TONE,
    declaration,
    evidence,
    explicit,
    tone,
)


def verdicts(made) -> dict[str, str]:
    return {v.trait: v.verdict for v in judge_survival(made).verdicts}


def causes(made) -> dict[str, dict]:
    return {cause.id: dict(cause.values) for cause in judge_survival(made).causes}


class Healthy(unittest.TestCase):
    def test_everything_is_kept_and_no_cause_named(self) -> None:
        found = judge_survival(evidence())
        self.assertEqual({v.verdict for v in found.verdicts}, {"kept"})
        self.assertEqual(found.causes, ())
        self.assertEqual(found.overall, "kept")

    def test_every_verdict_has_a_reason(self) -> None:
        for verdict in judge_survival(evidence()).verdicts:
            self.assertTrue(verdict.why)

    def test_equal_curves_are_no_change(self) -> None:
        # H.273 table 3: 1, 6, 14 and 15 are one curve
        sdr = {"transfer": 1, "primaries": 1, "matrix": 1}
        bare = {"mastering_display": None, "content_light": None}
        made = evidence(
            master=declaration(both=sdr, stream=bare),
            export=declaration(both=sdr | {"transfer": 6}, stream=bare),
        )
        self.assertEqual(verdicts(made)["transfer"], "kept")
        self.assertEqual(causes(made), {})


class Tags(unittest.TestCase):
    def test_missing(self) -> None:
        silent = dict.fromkeys(("transfer", "primaries", "matrix", "range"))
        found = judge_survival(evidence(export=declaration(both=silent)))
        self.assertEqual([c.id for c in found.causes], ["tag-missing"])
        self.assertEqual(set(found.causes[0].traits), set(silent))
        self.assertEqual(found.overall, "lost")

    def test_unspecified_is_missing(self) -> None:
        made = evidence(export=declaration(both={"matrix": 2}))
        self.assertEqual(list(causes(made)), ["tag-missing"])
        self.assertEqual(verdicts(made)["matrix"], "lost")

    def test_no_copy_is_retagged_where_the_picture_changed_by_no_known_act(self) -> None:
        # docs/contract.md, fine points of the comparison: HDR folded by an unknown curve
        folded = {"tone": tone("identity", 40.0), "acts": ()}
        silent = dict.fromkeys(("transfer", "primaries", "matrix"))
        found = judge_survival(evidence(export=declaration(both=silent), **folded))
        self.assertEqual([c.id for c in found.causes], ["tag-missing"])
        self.assertEqual(found.causes[0].remedy, "re-export")
        self.assertNotIn("into a copy;", found.causes[0].cure)
        sdr = {"transfer": 1, "primaries": 1, "matrix": 1}
        found = judge_survival(evidence(export=declaration(both=sdr), **folded))
        self.assertEqual([c.remedy for c in found.causes if c.remedy == "retag"], [])
        self.assertNotIn("tag-wrong", [c.id for c in found.causes])
        found = judge_survival(evidence(export=declaration(wrapper=sdr), **folded))
        self.assertEqual([(c.id, c.remedy) for c in found.causes], [("tag-conflict", "re-export")])

    def test_one_witness_that_speaks_is_enough(self) -> None:
        made = evidence(export=declaration(wrapper={"transfer": None, "primaries": 2}))
        self.assertEqual(causes(made), {})

    def test_conflict(self) -> None:
        made = evidence(export=declaration(wrapper={"transfer": 1}))
        self.assertEqual(causes(made)["tag-conflict"]["wrapper"], 1)
        self.assertEqual(causes(made)["tag-conflict"]["stream"], 16)

    def test_synonyms_are_no_conflict_but_may_both_be_wrong(self) -> None:
        # H.273 table 3: characteristics 1 and 6 are functionally the same
        made = evidence(export=declaration(wrapper={"transfer": 1}, stream={"transfer": 6}))
        self.assertEqual(list(causes(made)), ["tag-wrong"])

    def test_wrong_over_several_traits_is_one_cause(self) -> None:
        made = evidence(export=declaration(both={"transfer": 18, "primaries": 1}))
        found = causes(made)
        self.assertEqual(list(found), ["tag-wrong"])
        self.assertEqual(set(found["tag-wrong"]["traits"]), {"transfer", "primaries"})
        self.assertEqual(found["tag-wrong"]["traits"]["primaries"], {"from": 9, "to": 1})

    def test_one_witness_wrong_and_the_other_silent(self) -> None:
        made = evidence(export=declaration(wrapper={"transfer": 1}, stream={"transfer": None}))
        self.assertEqual(causes(made)["tag-wrong"]["to"], 1)
        found = {v.trait: v for v in judge_survival(made).verdicts}["transfer"]
        self.assertEqual((found.wrapper, found.stream, found.picture), (1, None, 16))

    def test_a_tag_explains_nothing_that_the_pixels_contradict(self) -> None:
        made = evidence(export=declaration(both={"transfer": 1}), tone=tone("gamma-shifted", 0.5))
        self.assertNotIn("tag-wrong", causes(made))
        self.assertIn("gamma-shifted", causes(made))

    def test_tones_that_moved_are_no_wrong_tag_however_few_they_are(self) -> None:
        told = {"transfer": 1, "primaries": 1, "matrix": 1}
        few = replace(tone("gamma-shifted", 38.0, identity=205.0), span=70.0)
        made = evidence(export=declaration(both=told), tone=few, acts=())
        self.assertNotIn("tag-wrong", causes(made))
        still = replace(tone("identity", 0.5, identity=0.5), span=70.0)
        made = evidence(export=declaration(both=told), tone=still, acts=())
        self.assertIn("tag-wrong", causes(made))

    def test_where_code_values_cannot_be_told_no_tag_is_called_wrong(self) -> None:
        told = {"transfer": 1, "primaries": 1, "matrix": 1}
        as_sdr = declaration(both=told)
        self.assertNotIn("tag-wrong", causes(evidence(export=as_sdr, tone=None, acts=())))
        headers = Evidence(evidence().promise, declaration(), as_sdr, None)
        self.assertNotIn("tag-wrong", causes(headers))

    def test_hdr_stated_as_sdr_whose_highlights_moved_was_made_sdr(self) -> None:
        told = {"transfer": 1, "primaries": 1, "matrix": 1}
        silent = {"mastering_display": None, "content_light": None}
        moved = HighlightEdge(
            level=0.51, nits=103.0, cut=190.0, rolled=144.0, kept=144.0, slope=1.8, samples=3709
        )
        made = evidence(
            export=declaration(both=told, stream=silent), tone=None, acts=(), highlights=moved
        )
        self.assertEqual(list(causes(made)), ["tone-compressed"])
        still = replace(moved, kept=1.2)
        made = evidence(export=declaration(both=told), tone=None, acts=(), highlights=still)
        self.assertIn("tag-wrong", causes(made))

    def test_bars_over_the_picture_hide_it_and_bars_round_it_do_not(self) -> None:
        painted = replace(SURVEY, export_bars=Bars(top=140, bottom=140))
        padded = replace(painted, registration=replace(PLACE, top=140.0, height=800.0))
        self.assertEqual((is_covered(painted), is_covered(padded)), (True, False))
        self.assertFalse(is_covered(SURVEY))

    def test_mastering_display_rounding_is_no_change(self) -> None:
        display = declaration().stream["mastering_display"].value
        rounded = display | {"red": (0.68002, 0.31998), "min": 0.0049}
        self.assertEqual(
            causes(evidence(export=declaration(stream={"mastering_display": rounded}))), {}
        )
        other = display | {"max": 4000.0}
        made = evidence(export=declaration(stream={"mastering_display": other}))
        self.assertEqual(list(causes(made)), ["tag-wrong"])

    def test_a_file_tagged_hlg_needs_no_message_for_older_readers(self) -> None:
        hlg = {"transfer": 18}
        master = declaration(both=hlg, stream={"alternative_transfer": 18})
        self.assertEqual(causes(evidence(master=master, export=declaration(both=hlg))), {})
        older = declaration(both={"transfer": 14}, stream={"alternative_transfer": 18})
        silent = declaration(both={"transfer": 14})
        self.assertEqual(list(causes(evidence(master=older, export=silent))), ["tag-missing"])
        wrong = evidence(master=master, export=declaration(both={"transfer": 16}))
        self.assertEqual(list(causes(wrong)), ["tag-wrong"])

    def test_chroma_location_silence_means_left(self) -> None:
        for location, expected in ((0, []), (2, ["tag-missing"])):
            master = declaration(stream={"chroma_location": location})
            self.assertEqual(list(causes(evidence(master=master))), expected)

    def test_sphere_and_eyes_unflagged_come_first(self) -> None:
        master = declaration(wrapper={"projection": "equirectangular", "stereo": "top-bottom"})
        found = causes(evidence(master=master))
        self.assertEqual(set(found), {"sphere-unflagged", "stereo-unflagged"})

    def test_sphere_and_eyes_flagged_otherwise(self) -> None:
        master = declaration(wrapper={"projection": "equirectangular", "stereo": "top-bottom"})
        export = declaration(wrapper={"projection": "cubemap", "stereo": "left-right"})
        found = causes(evidence(master=master, export=export))
        self.assertEqual(found["sphere-misflagged"], {"from": "equirectangular", "to": "cubemap"})
        self.assertEqual(found["stereo-misflagged"], {"from": "top-bottom", "to": "left-right"})

    def test_a_flat_master_flagged_as_sphere_or_eyes(self) -> None:
        # docs/contract.md: "flat picture flagged spherical", "a one-eye picture flagged as two"
        said = {"projection": "equirectangular", "stereo": "left-right"}
        made = evidence(export=declaration(wrapper=said))
        self.assertEqual(set(causes(made)), {"sphere-misflagged", "stereo-misflagged"})
        self.assertEqual({verdicts(made)[t] for t in said}, {"lost"})

    def test_flat_flags_beside_a_silent_master_are_no_row(self) -> None:
        said = {"projection": "rectilinear", "stereo": "mono"}
        made = evidence(export=declaration(wrapper=said))
        self.assertEqual(causes(made), {})
        self.assertFalse(set(said) & set(verdicts(made)))

    def test_a_silent_master_of_a_spheres_shape_names_no_cause(self) -> None:
        # whole equirectangular pictures are 2:1 (common practice, no source)
        wide = {"raster": (3840, 1920)}
        export = declaration(both=wide, wrapper={"projection": "equirectangular"})
        made = evidence(master=declaration(both=wide), export=export)
        self.assertEqual(verdicts(made)["projection"], "unproven")
        self.assertNotIn("sphere-misflagged", causes(made))

    def test_codecs_without_a_range_flag_are_limited(self) -> None:
        silent = declaration(both={"range": None})
        self.assertEqual(verdicts(evidence(export=silent))["range"], "lost")
        plain = replace(silent, video=replace(silent.video, codec="mpeg2"))
        self.assertEqual(verdicts(evidence(export=plain))["range"], "kept")

    def test_unmeasured_traits_are_unproven_never_kept(self) -> None:
        flagged = {"projection": "equirectangular"}
        made = evidence(master=declaration(wrapper=flagged), export=declaration(wrapper=flagged))
        self.assertEqual(verdicts(made)["projection"], "unproven")
        self.assertEqual(judge_survival(made).overall, "unproven")


class Light(unittest.TestCase):
    def test_range_acts(self) -> None:
        for act in ("range-compressed", "range-expanded"):
            made = evidence(tone=tone(act, 0.6))
            self.assertEqual(list(causes(made)), [act])
            self.assertEqual(verdicts(made)["range"], "lost")

    def test_range_converted_with_its_flag_is_bent_without_cause(self) -> None:
        # trade-facts.md: harmless if values and flag agree (common practice, no source)
        full = declaration(both={"range": "full"}, name="master.mov")
        made = evidence(master=full, tone=tone("range-compressed", 0.6))
        self.assertEqual(verdicts(made)["range"], "bent")
        self.assertEqual(verdicts(made)["tone"], "kept")
        self.assertEqual(causes(made), {})

    def test_range_flag_changed_alone_is_a_wrong_tag(self) -> None:
        made = evidence(export=declaration(both={"range": "full"}))
        self.assertEqual(causes(made)["tag-wrong"]["to"], "full")

    def test_power_law_gives_its_exponent(self) -> None:
        made = evidence(tone=tone("gamma-shifted", 0.4, exponent=1.224))
        self.assertEqual(causes(made), {"gamma-shifted": {"exponent": 1.224}})
        self.assertEqual(verdicts(made)["transfer"], "lost")

    def test_two_acts_that_explain_alike_name_none(self) -> None:
        close = tone("gamma-shifted", 2.0)
        fits = [replace(f, residual=3.0) if f.act == "range-compressed" else f for f in close.fits]
        made = evidence(tone=replace(close, fits=tuple(sorted(fits, key=lambda f: f.residual))))
        self.assertEqual(causes(made), {})
        self.assertEqual(verdicts(made)["tone"], "lost")

    def test_small_unexplained_difference_is_unproven(self) -> None:
        made = evidence(tone=tone("gamma-shifted", 3.2, identity=3.3, exponent=1.001))
        self.assertEqual(verdicts(made)["tone"], "unproven")
        self.assertEqual(causes(made), {})

    def test_narrow_pictures_prove_no_tone(self) -> None:
        made = evidence(tone=replace(TONE, span=60.0))
        self.assertEqual(verdicts(made)["tone"], "unproven")
        self.assertEqual(verdicts(made)["transfer"], "unproven")

    def test_a_promised_conversion_is_held_against_the_expected_picture(self) -> None:
        wanted = {
            "promise": {"transfer": explicit(18)},
            "export": declaration(both={"transfer": 18}),
        }
        self.assertEqual(verdicts(evidence(**wanted))["tone"], "kept")
        # where no formula makes the expected picture, nothing was measured
        self.assertEqual(verdicts(evidence(**wanted, tone=None))["tone"], "unproven")

    def test_light_level_missing(self) -> None:
        for value in (None, {"max_cll": 0, "max_fall": 0}):
            made = evidence(export=declaration(stream={"content_light": value}))
            found = causes(made)["light-level-missing"]
            self.assertEqual(found["declared"], None)
            # what decided is stray-proof; the single brightest sample stands beside it
        self.assertEqual(found["measured"], {"max_cll": 940, "max_fall": 150})
        self.assertEqual(found["plain"], {"max_cll": 1050, "max_fall": 150})

    def test_light_level_understated(self) -> None:
        low = {"max_cll": 400, "max_fall": 100}
        found = causes(evidence(export=declaration(stream={"content_light": low})))
        self.assertEqual(found["light-level-understated"]["declared"], low)

    def test_lower_but_true_light_level_is_a_wrong_tag(self) -> None:
        dim = replace(LIGHT, p999=300.0)
        low = {"max_cll": 400, "max_fall": 100}
        made = evidence(export=declaration(stream={"content_light": low}), export_light=dim)
        self.assertNotIn("light-level-understated", causes(made))

    def test_light_level_without_light_to_hold_it_against_is_unproven(self) -> None:
        self.assertEqual(verdicts(evidence(export_light=None))["content_light"], "unproven")
        only_average = declaration(stream={"content_light": {"max_cll": 0, "max_fall": 200}})
        made = evidence(master=only_average, export=only_average)
        self.assertEqual(verdicts(made)["content_light"], "unproven")

    def test_stray_samples_do_not_understate(self) -> None:
        # docs/checks.md 8: single samples of a healthy export reach twice the master's ceiling
        made = evidence(export_light=replace(LIGHT, max_cll=2100.0, p9999=1500.0))
        self.assertEqual(verdicts(made)["content_light"], "kept")

    def test_depth(self) -> None:
        for survey, verdict, named in (
            ({"depth": DepthUse(residual=0.9, step_share=0.7)}, "lost", ["depth-reduced"]),
            ({"depth": DepthUse(residual=0.9, step_share=0.3)}, "unproven", []),
            ({"depth": None}, "kept", []),  # no gradient in which a loss could show
            ({"export_codes": replace(CODES, comb=1.0, levels=180)}, "lost", ["depth-reduced"]),
            (
                {
                    "export_codes": replace(CODES, comb=1.0),
                    "master_codes": replace(CODES, comb=1.0),
                },
                "kept",
                [],
            ),
        ):
            made = evidence(**survey)
            self.assertEqual(verdicts(made)["bit_depth"], verdict)
            self.assertEqual(list(causes(made)), named)

    def test_soft_eyes_that_lie_nearer_to_the_other_one_were_exchanged(self) -> None:
        # a grey jetty in mist: neither eye is found for certain, once both are soft (SVT-AV1)
        own = [ViewShift(dx=dx, dy=0.0, likeness=0.9955, other=0.9979) for dx in (0.47, -0.47)]
        moment = StereoMoment(
            master_frame=0, export_frame=0, time_s=0.0, parallax=(None, None),
            shifts=(own[0], own[1]), colour=(None, None), sharpness=(None, None),
        )  # fmt: skip
        found = StereoFindings(
            packings=("left-right", "left-right"), sure=False, repeated=False, moments=(moment,)
        )
        wanted = {"stereo": explicit("left-right"), "convergence": explicit("as mastered")}
        for eyes, named in (
            (found, ["eyes-swapped"]),
            (replace(found, moments=(replace(moment, shifts=(
                replace(own[0], likeness=0.998, other=0.9955),
                replace(own[1], likeness=0.998, other=0.9955))),)), ["convergence-shifted"]),
        ):  # fmt: skip
            made = evidence(
                promise=wanted,
                export=declaration(both={"stereo": "left-right"}),
                detail=replace(DETAIL, transfer=0.1),
                eyes=eyes,
            )
            self.assertEqual(list(causes(made)), named)

    def test_light_that_coding_adds_to_a_bright_master_understates_nothing(self) -> None:
        # snowy rocks of 1061 cd/m², promised 1000: x265 makes 1089 to 1197 of them, CRF 14 to 26
        for master, export, verdict in (
            (1061.0, 1197.0, "kept"),
            (1106.0, 1445.0, "kept"),  # a shop full of lamps, SVT-AV1 at CRF 26
            (800.0, 1197.0, "bent"),
            (1500.0, 1510.0, "bent"),  # the master's own level is wrong
        ):
            made = evidence(
                master_light=replace(LIGHT, p999=master), export_light=replace(LIGHT, p999=export)
            )
            self.assertEqual(verdicts(made)["content_light"], verdict)

    def test_of_few_tones_an_act_is_told_where_no_other_comes_near(self) -> None:
        # a dark wood in HLG, stretched (SVT-AV1): 0.3 codes are left, by a power 11.8
        near = tone("range-expanded", 0.3, identity=42.7)
        clear = replace(near, span=80.0)
        self.assertIn("range-expanded", causes(evidence(tone=clear, acts=())))
        few = replace(near, span=40.0)
        self.assertNotIn("range-expanded", causes(evidence(tone=few, acts=())))

    def test_the_staircase_of_rough_coding_tells_no_depth(self) -> None:
        # a smooth picture at x265's lowest rate: even places wander by 3.9 codes, all is worn away
        made = evidence(
            depth=DepthUse(residual=4.6, step_share=0.51),
            tone=replace(TONE, noise=3.9),
            detail=replace(DETAIL, transfer=0.0),
        )
        self.assertEqual(verdicts(made)["bit_depth"], "unproven")
        self.assertNotIn("depth-reduced", causes(made))

    def test_tones_that_stayed_hold_no_coarse_staircase(self) -> None:
        # sunken highlights of a waterfall and of a canyon (SVT-AV1): as it were 6 bits, and 8
        six = DepthUse(residual=2.4, step_share=0.52, coarser=(0.35, 0.4))
        eight = DepthUse(residual=0.95, step_share=0.72, coarser=(0.0, 0.0))
        told = ((six, 0.8, False), (six, 2.5, True), (eight, 2.4, False), (eight, 1.5, True))
        for sunken, off, named in told:
            fits = tuple(replace(f, residual=off) if f.act == "identity" else f for f in TONE.fits)
            made = evidence(depth=sunken, tone=replace(TONE, fits=fits))
            with self.subTest(sunken.coarser, off=off):
                self.assertEqual("depth-reduced" in causes(made), named)

    def test_restless_places_in_an_unlike_picture_are_coding_damage(self) -> None:
        # a jetty in mist (SVT-AV1 at its lowest quality): half of the fine structure is there
        worn = DetailCurve((0.25, 0.5, 0.95), (1.0, 0.5, 0.0), (1.0, 0.53, 0.0))
        half = replace(DETAIL, transfer=0.53, across=worn, down=worn, fits=(
            DetailFit("softened", 15.6, {"sigma": 0.7}),
            DetailFit("detail-below-raster", 16.1, {"across": 0.83, "down": 0.83}),
            DetailFit("upscale-nearest", 21.4, {"ratio": 2.0}),
            DetailFit("identity", 22.9, {}),
        ))  # fmt: skip
        figures = ((2.4, 0.927, True), (1.7, 0.927, False), (2.8, 0.947, False))
        for noise, ssim, named in figures:  # the last: fruit, x264 superfast at CRF 26
            unlike = replace(SURVEY.difference, ssim_mean=ssim)
            made = evidence(detail=half, difference=unlike, tone=replace(TONE, noise=noise))
            with self.subTest(noise=noise, ssim=ssim):
                self.assertEqual("generation-loss" in causes(made), named)

    def test_where_half_the_structure_is_left_coding_is_not_blamed(self) -> None:
        # a painted meadow, x265 superfast at CRF 26: bent, without a cause
        worn = DetailCurve((0.25, 0.5, 0.95), (1.0, 0.5, 0.0), (1.0, 0.56, 0.0))
        fits = (DetailFit("softened", 14.8, {"sigma": 0.5}), DetailFit("identity", 17.1, {}),
            DetailFit("detail-below-raster", 15.0, {"across": 0.9, "down": 0.9}),
            DetailFit("upscale-nearest", 31.0, {"ratio": 2.0}))  # fmt: skip
        left = replace(DETAIL, transfer=0.56, across=worn, down=worn, fits=fits)
        unlike = replace(SURVEY.difference, ssim_mean=0.907)
        made = evidence(detail=left, difference=unlike, tone=replace(TONE, noise=2.7))
        self.assertEqual(verdicts(made)["detail"], "bent")
        self.assertNotIn("generation-loss", causes(made))

    def test_a_cliff_in_grain_of_a_few_codes_tells_no_raster(self) -> None:
        # a night in mist, whose only structure is its grain (VP9 at CRF 26); five times as much
        given = (0.25, 0.5, 0.55, 0.6, 0.95), (1.0, 0.8, 0.5, 0.1, 0.0), (1.0, 0.7, 0.45, 0.0, 0.0)
        cliff = DetailCurve(*given)
        near = replace(SURVEY.difference, ssim_mean=0.995)
        for gain, named in ((1.0, False), (5.0, True)):
            fits = (
                DetailFit("detail-below-raster", 1.9 * gain, {"across": 0.6, "down": 0.6}),
                DetailFit("softened", 2.0 * gain, {"sigma": 0.8}),
                DetailFit("identity", 2.9 * gain, {}),
                DetailFit("upscale-nearest", 3.5 * gain, {"ratio": 2.0}),
            )
            weak = replace(DETAIL, transfer=0.38, across=cliff, down=cliff, fits=fits)
            made = evidence(detail=weak, difference=near)
            with self.subTest(gain):
                self.assertEqual("detail-below-raster" in causes(made), named)

    def test_coding_too_rough_to_follow_what_moves_is_no_other_size(self) -> None:
        # a sea that grows, at the lowest rate: each frame lies where an earlier one did
        place = replace(PLACE, left=-12.0, width=1949.0, spread=11.0)
        worn = replace(DETAIL, transfer=0.0, scale=(1.015, 1.001))
        rough = evidence(registration=place, detail=worn, tone=replace(TONE, noise=4.3))
        self.assertEqual(list(causes(rough)), ["generation-loss"])
        even = evidence(registration=place, detail=worn)
        self.assertNotIn("generation-loss", causes(even))

    def test_witnesses_of_two_depths_are_told_by_the_lower(self) -> None:
        made = evidence(export=declaration(stream={"bit_depth": 8}))
        found = {v.trait: v for v in judge_survival(made).verdicts}["bit_depth"]
        self.assertEqual(found.why, "Promised 10 bits; the export carries 8.")

    def test_depth_below_the_masters_is_bent_unless_promised(self) -> None:
        eight = declaration(both={"bit_depth": 8})
        self.assertEqual(verdicts(evidence(export=eight))["bit_depth"], "bent")
        made = evidence(export=eight, promise={"bit_depth": explicit(10)})
        self.assertEqual(verdicts(made)["bit_depth"], "lost")
        self.assertEqual(causes(evidence(export=eight)), {})


class Colour(unittest.TestCase):
    def test_grey_pictures_cannot_tell_matrices_apart(self) -> None:
        found = verdicts(evidence(tone=replace(TONE, chroma_span=10.0)))
        self.assertEqual((found["matrix"], found["primaries"]), ("kept", "kept"))
        self.assertEqual(found["gamut"], "kept")

    def test_moved_colours_are_lost_without_a_cause(self) -> None:
        made = evidence(tone=replace(TONE, chroma_residual=14.0))
        self.assertEqual(verdicts(made)["gamut"], "lost")
        self.assertEqual(verdicts(made)["matrix"], "unproven")
        self.assertEqual(causes(made), {})

    def test_chroma_sampling(self) -> None:
        rich = declaration(both={"chroma": "4:2:2"})
        found = judge_survival(evidence(master=rich))
        self.assertEqual({v.trait: v.verdict for v in found.verdicts}["chroma"], "kept")
        self.assertEqual([note.trait for note in found.notes], ["chroma"])
        self.assertEqual(causes(evidence(master=rich)), {})
        grey = declaration(both={"chroma": "4:0:0"})
        self.assertEqual(verdicts(evidence(export=grey))["chroma"], "bent")
        self.assertEqual(verdicts(evidence(export=rich))["chroma"], "kept")
        made = evidence(master=rich, promise={"chroma": explicit("4:2:2")})
        self.assertEqual(verdicts(made)["chroma"], "lost")


WIDE = {"pixel_aspect": (4, 3)}
SQUARE = {"pixel_aspect": (1, 1)}


class Shape(unittest.TestCase):
    def test_squeeze_unflagged(self) -> None:
        for export in (declaration(), declaration(both=SQUARE)):
            found = causes(evidence(master=declaration(both=WIDE), export=export))
            self.assertEqual(found, {"squeeze-unflagged": {"ratio": 0.75}})
            made = judge_survival(evidence(master=declaration(both=WIDE), export=export))
            aspect = next(v for v in made.verdicts if v.trait == "pixel_aspect")
            self.assertEqual(aspect.picture, (4, 3))

    def test_squeeze_kept(self) -> None:
        made = evidence(master=declaration(both=WIDE), export=declaration(wrapper=WIDE))
        self.assertEqual(causes(made), {})
        self.assertEqual(verdicts(made)["pixel_aspect"], "kept")

    def test_a_pixel_aspect_next_to_the_promised_one_is_kept(self) -> None:
        # 20001:20000 is 0.005 % off square; 1 % is what shows on a circle
        next_to = {"pixel_aspect": (20_001, 20_000)}
        made = evidence(export=declaration(wrapper=next_to))
        self.assertEqual(verdicts(made)["pixel_aspect"], "kept")
        self.assertEqual(causes(made), {})
        both = declaration(wrapper=next_to, stream={"pixel_aspect": (1, 1)})
        self.assertEqual(causes(evidence(export=both)), {})

    def widened(self, export):
        return evidence(
            master=declaration(both=WIDE),
            export=export,
            export_raster=(2560, 1080),
            registration=replace(PLACE, width=2560.0),
        )

    def test_squeeze_doubled(self) -> None:
        export = declaration(both=WIDE | {"raster": (2560, 1080)})
        self.assertEqual(causes(self.widened(export)), {"squeeze-doubled": {"ratio": 1.3333}})

    def test_widened_to_square_samples_is_bent_without_cause(self) -> None:
        made = self.widened(declaration(both=SQUARE | {"raster": (2560, 1080)}))
        self.assertEqual(causes(made), {})
        self.assertEqual(verdicts(made)["shown_shape"], "kept")
        self.assertEqual(verdicts(made)["pixel_aspect"], "bent")

    def test_stretched_explains_the_raster(self) -> None:
        made = evidence(
            export=declaration(both={"raster": (1440, 1080)}),
            export_raster=(1440, 1080),
            registration=replace(PLACE, width=1440.0),
        )
        self.assertEqual(causes(made), {"stretched": {"ratio": 0.75}})

    def test_small_stretch_is_bent(self) -> None:
        made = evidence(registration=replace(PLACE, width=1934.0, left=-7.0))
        self.assertEqual(verdicts(made)["shown_shape"], "bent")

    def test_conflicting_aspects(self) -> None:
        export = declaration(wrapper=SQUARE, stream=WIDE)
        self.assertEqual(
            list(causes(evidence(master=declaration(both=WIDE), export=export))), ["tag-conflict"]
        )

    def test_bars(self) -> None:
        for place, bars, name in (
            (
                {"top": 138.0, "left": 245.0, "width": 1430.0, "height": 804.0},
                (138, 138, 245, 245),
                "windowboxed",
            ),
            ({"top": 140.0, "height": 800.0}, (140, 140, 0, 0), "letterboxed"),
            ({"left": 240.0, "width": 1440.0}, (0, 0, 240, 240), "pillarboxed"),
        ):
            found = causes(evidence(registration=replace(PLACE, **place)))
            self.assertEqual(
                found[name], dict(zip(("top", "bottom", "left", "right"), bars, strict=True))
            )

    def test_bars_drawn_over_an_unmoved_picture(self) -> None:
        found = causes(evidence(export_bars=Bars(top=140, bottom=140)))
        self.assertEqual(found, {"letterboxed": {"top": 140, "bottom": 140, "left": 0, "right": 0}})

    def test_the_masters_own_bars_are_no_injury(self) -> None:
        bars = Bars(top=140, bottom=140)
        self.assertEqual(causes(evidence(master_bars=bars, export_bars=bars)), {})

    def test_cut_in_master_samples(self) -> None:
        place = replace(PLACE, left=-106.667, top=-60.0, width=2133.333, height=1200.0)
        found = causes(evidence(registration=place))
        self.assertEqual(found["cropped"], {"top": 54, "bottom": 54, "left": 96, "right": 96})

    def test_a_move_within_what_unpaired_frames_differ_is_unproven(self) -> None:
        place = replace(PLACE, top=-14.0, height=1084.0, spread=6.9)
        longer = replace(TIMING, added_out=1)
        found = evidence(registration=place, timing=longer)
        self.assertEqual(causes(found), {})
        self.assertEqual(verdicts(found)["framing"], "unproven")
        # beside their own, frames that lie apart are one
        self.assertEqual(list(causes(evidence(registration=place))), ["shifted"])
        near = replace(place, spread=2.0)
        self.assertEqual(list(causes(evidence(registration=near, timing=longer))), ["shifted"])

    def test_a_place_found_in_other_tones_is_a_rough_one(self) -> None:
        """A picture blown out to white seemed cut by 1.2 % of its height, and as much too high."""
        place = replace(PLACE, top=-8.0, height=1093.0, likeness=0.93)
        found = evidence(registration=place)
        self.assertEqual(verdicts(found)["framing"], "unproven")
        self.assertEqual(causes(found), {})
        sure = evidence(registration=replace(place, likeness=0.99))
        self.assertIn("cropped", [*causes(sure), *causes(evidence(registration=replace(
            place, likeness=0.93, top=-60.0, height=1200.0)))])  # fmt: skip

    def test_promised_cut_is_no_injury(self) -> None:
        wanted = {
            "raster": explicit((1920, 804)),
            "framing": explicit({"crop": (0, 138, 1920, 804)}),
        }
        shape = {"shown_shape": explicit(1920 / 804)}
        cut = {"export_raster": (1920, 804), "registration": replace(PLACE, top=-138.0)}
        export = declaration(both={"raster": (1920, 804)})
        self.assertEqual(causes(evidence(export=export, promise=wanted | shape, **cut)), {})

    def test_another_shape_at_the_same_aspect_means_a_centre_cut(self) -> None:
        wanted = {"raster": explicit((1920, 804))}
        cut = {"export_raster": (1920, 804), "registration": replace(PLACE, top=-138.0)}
        export = declaration(both={"raster": (1920, 804)})
        self.assertEqual(causes(evidence(export=export, promise=wanted, **cut)), {})
        moved = {"export_raster": (1920, 804), "registration": replace(PLACE, top=-238.0)}
        found = causes(evidence(export=export, promise=wanted, **moved))
        self.assertEqual(found["cropped"]["top"], 100)

    def test_downscaled(self) -> None:
        made = evidence(
            export=declaration(both={"raster": (1280, 720)}),
            export_raster=(1280, 720),
            registration=replace(PLACE, width=1280.0, height=720.0),
            depth=None,
            detail=None,
        )
        self.assertEqual(causes(made), {"downscaled": {"from": (1920, 1080), "to": (1280, 720)}})

    def test_a_wrapper_that_claims_the_promised_raster_saves_no_samples(self) -> None:
        fewer = evidence(export=declaration(stream={"raster": (1280, 720)}))
        self.assertEqual(verdicts(fewer)["raster"], "lost")
        as_many = evidence(export=declaration(wrapper={"raster": (1280, 720)}))
        self.assertEqual(verdicts(as_many)["raster"], "bent")

    def test_promised_enlargement_is_kept(self) -> None:
        made = evidence(
            export=declaration(both={"raster": (3840, 2160)}),
            export_raster=(3840, 2160),
            registration=replace(PLACE, width=3840.0, height=2160.0),
            promise={"raster": explicit((3840, 2160), converted_from=(1920, 1080))},
        )
        self.assertEqual(verdicts(made)["raster"], "kept")
        self.assertEqual(causes(made), {})

    def test_turns_and_mirrors(self) -> None:
        for turn, mirrored, name, values in (
            (180, False, "rotated", {"degrees": 180}),
            (0, True, "mirrored", {"axis": "horizontal"}),
            (180, True, "mirrored", {"axis": "vertical"}),
        ):
            made = evidence(registration=replace(PLACE, turn=turn, mirrored=mirrored))
            self.assertEqual(causes(made), {name: values})
            self.assertEqual(verdicts(made)["framing"], "lost")

    def test_unregistered_pictures_prove_no_shape(self) -> None:
        found = verdicts(evidence(registration=None, tone=None, difference=None))
        for trait in ("shown_shape", "framing", "pixel_aspect", "tone", "transfer"):
            self.assertEqual(found[trait], "unproven", trait)

    def test_scan(self) -> None:
        silent = declaration(stream={"scan": None})
        self.assertEqual(verdicts(evidence(export=silent))["scan"], "kept")
        blurred = replace(SURVEY.difference, ssim_worst=0.8)
        self.assertEqual(verdicts(evidence(export=silent, difference=blurred))["scan"], "kept")
        woven = declaration(stream={"scan": "top-first"})
        self.assertEqual(verdicts(evidence(export=woven))["scan"], "lost")

    def test_a_field_order_that_two_texts_read_apart_is_no_contradiction(self) -> None:
        # fiel 9: the QuickTime File Format's bottom field first is RFC 9559's top field first
        woven = declaration(both={"scan": "top-first"})
        either = Said(value="bottom-first", where="fiel", also="top-first")
        read = replace(woven, wrapper=woven.wrapper | {"scan": either})
        self.assertEqual(stated_by(read, "scan")[1].value, "top-first")
        self.assertEqual(verdicts(evidence(master=woven, export=read))["scan"], "kept")
        other = replace(read, stream=read.stream | {"scan": Said(value="progressive", where="")})
        self.assertEqual(stated_by(other, "scan")[1].value, "bottom-first")

    def test_wish_is_bent_at_most(self) -> None:
        small = declaration(both={"raster": (1280, 720)})
        wish = {"raster": explicit((1920, 1080), weight="should")}
        self.assertEqual(verdicts(evidence(export=small, promise=wish))["raster"], "bent")


class TimeAndCarriage(unittest.TestCase):
    def test_rate_changed(self) -> None:
        found = causes(evidence(export=declaration(both={"frame_rate": (25, 1)})))
        self.assertEqual(found, {"rate-changed": {"from": (24, 1), "to": (25, 1)}})

    def test_film_rate_is_not_its_neighbour(self) -> None:
        made = evidence(export=declaration(both={"frame_rate": (24000, 1001)}))
        self.assertEqual(verdicts(made)["frame_rate"], "lost")

    def test_rate_from_the_average_where_none_is_stated(self) -> None:
        made = evidence(export=declaration(both={"frame_rate": None}))
        self.assertEqual(verdicts(made)["frame_rate"], "kept")

    def test_one_of_several_rates(self) -> None:
        wanted = {"frame_rate": explicit(None, one_of=((24, 1), (25, 1)))}
        export = declaration(both={"frame_rate": (25, 1)})
        self.assertEqual(verdicts(evidence(export=export, promise=wanted))["frame_rate"], "kept")

    def test_index(self) -> None:
        made = evidence(export=declaration(index_first=False))
        self.assertEqual(list(causes(made)), ["index-last"])
        found = {v.trait: v for v in judge_survival(made).verdicts}["index_first"]
        self.assertIs(found.wrapper, False)
        self.assertEqual(judge_survival(made).overall, "bent")
        self.assertEqual(
            verdicts(evidence(export=declaration(index_first=None)))["index_first"], "kept"
        )

    def test_missing_and_repeated_frames(self) -> None:
        gap, again = TimeEvent(20, 20, 2), TimeEvent(30, 29, 1)
        for change, verdict, named in (
            ({"dropped": (gap,)}, "lost", {"frames-dropped": {"count": 2, "at": 20}}),
            ({"repeated": (again,)}, "lost", {"frames-repeated": {"count": 1, "at": 29}}),
            ({"trimmed_in": 5, "trimmed_out": 3}, "bent", {"trimmed": {"count": 8}}),
            ({"trimmed_out": 4}, "bent", {"trimmed": {"count": 4, "at": "end"}}),
            # 285 of 288 frames: viewers miss all but the first of it
            ({"matched": 3, "trimmed_out": 285}, "lost", {"trimmed": {"count": 285}}),
            ({"matched": 14_370, "trimmed_out": 30}, "lost", {"trimmed": {"count": 30}}),
            ({"matched": 6, "trimmed_out": 8}, "lost", {"trimmed": {"count": 8}}),
            ({"foreign": 3}, "lost", {}),
            ({"added_out": 2}, "bent", {}),
            ({"blended": (4, 9)}, "bent", {}),
            ({"still_share": 0.97}, "kept", {}),
            ({}, "kept", {}),
        ):
            made = evidence(timing=replace(TIMING, **change))
            with self.subTest(change):
                self.assertEqual(verdicts(made)["frames"], verdict)
                found = causes(made)
                self.assertEqual(list(found), list(named))
                for name, values in named.items():
                    self.assertEqual({k: found[name][k] for k in values}, values)
        self.assertEqual(verdicts(evidence(timing=None))["frames"], "unproven")

    def test_frames_made_for_another_rate_are_no_drops(self) -> None:
        timing = replace(TIMING, dropped=(TimeEvent(20, 20, 8),))
        export = declaration(frames=40, both={"frame_rate": (20, 1)})
        made = evidence(export=export, timing=timing, export_frames=40)
        self.assertEqual(verdicts(made)["frames"], "bent")
        self.assertEqual(list(causes(made)), ["rate-changed"])

    def test_bounds(self) -> None:
        for bounds, verdict in (
            ({"at_least": (1280, 720)}, "kept"),
            ({"at_most": (1280, 720)}, "bent"),
            ({"at_least": (3840, 2160)}, "lost"),
            ({"one_of": ((1920, 1080), (1280, 720))}, "kept"),
        ):
            made = evidence(promise={"raster": explicit(None, **bounds)})
            self.assertEqual(verdicts(made)["raster"], verdict, bounds)
