"""The contract's objects, stored records, the Bench's view, and the geometry of drawings."""

import json
import re
import unittest
from dataclasses import replace
from itertools import pairwise
from xml.etree import ElementTree as Tree

from shapkeen.core import promised
from shapkeen.core.colour.coding import Coding
from shapkeen.core.compared import judge_survey
from shapkeen.core.declared import read_declaration
from shapkeen.core.judged import Comparison
from shapkeen.core.judged.survival import judge_survival
from shapkeen.core.measured import ColourUse, Damage, LightLevels, WavePair
from shapkeen.core.reported import bench
from shapkeen.core.reported.declaration import declaration_object
from shapkeen.core.reported.declared import declaration_from_object, promise_of
from shapkeen.core.reported.figures import svg, thread
from shapkeen.core.reported.figures.gamut import cells, gamut_figure, x_of, y_of
from shapkeen.core.reported.figures.glyph import verdict_glyph
from shapkeen.core.reported.figures.light import HEIGHT, TOP, light_figure, light_y
from shapkeen.core.reported.figures.shape import ShownPicture, shape_figure
from shapkeen.core.reported.figures.tone import tone_figure
from shapkeen.core.reported.figures.vector import vector_figure
from shapkeen.core.reported.figures.wave import wave_figure
from shapkeen.core.reported.figures.wave import y_of as wave_y
from shapkeen.core.reported.slip import slip_of
from shapkeen.core.reported.survival import survival_object
from tests.builders import media
from tests.builders.evidence import LIGHT, PLACE, TONE, declaration, evidence, explicit, tone

SVG = "{http://www.w3.org/2000/svg}"


def comparison(made) -> Comparison:
    return Comparison(
        master=made.master,
        export=made.export,
        promise=made.promise,
        survey=made.survey,
        survival=judge_survival(made),
        read_s=0.01,
        measure_s=1.0,
    )


def parts(drawing: str, name: str) -> list[Tree.Element]:
    return [item for item in Tree.fromstring(drawing).iter() if item.tag == name]


class Objects(unittest.TestCase):
    def test_declaration_has_the_contracts_form(self) -> None:
        made = declaration_object(read_declaration(media.sdr_master()))
        self.assertEqual(made["schema"], "shapkeen.declaration/1")
        self.assertLessEqual({"name", "bytes", "wrapper", "index_first"}, set(made["file"]))
        self.assertLessEqual(
            {"codec", "codec_tag", "profile", "level", "frame_count", "duration", "bit_rate"},
            set(made["video"]),
        )
        again = json.loads(json.dumps(made))
        self.assertEqual(again["witnesses"]["wrapper"]["raster"], [640, 360])
        self.assertEqual(set(again["places"]["stream"]), set(again["witnesses"]["stream"]))

    def test_silent_things_are_absent(self) -> None:
        made = declaration_object(declaration(index_first=None, wrapper={"transfer": None}))
        self.assertNotIn("index_first", made["file"])
        self.assertNotIn("tier", made["video"])
        self.assertNotIn("transfer", made["witnesses"]["wrapper"])

    def test_survival_has_the_contracts_form(self) -> None:
        made = survival_object(comparison(evidence(tone=tone("gamma-shifted", 0.5))))
        again = json.loads(json.dumps(made))
        self.assertEqual((again["schema"], again["overall"]), ("shapkeen.survival/1", "lost"))
        for verdict in again["verdicts"]:
            self.assertLessEqual(
                {
                    "trait",
                    "family",
                    "verdict",
                    "promised",
                    "wrapper",
                    "stream",
                    "picture",
                    "why",
                    "states",
                },
                set(verdict),
            )
        self.assertEqual(again["stage"], "whole")
        self.assertEqual(set(again["files"]), {"master", "export"})
        cause = again["causes"][0]
        self.assertEqual((cause["id"], cause["values"]), ("gamma-shifted", {"exponent": 1.2}))
        self.assertLessEqual({"traits", "why", "remedy"}, set(cause))
        self.assertEqual(set(again["frames"]), {"compared", "offset", "decoded"})
        self.assertEqual(set(again["seconds"]), {"read", "measure"})

    def test_stored_declaration_gives_the_same_promise(self) -> None:
        declared = read_declaration(media.hdr_master())
        stored = json.loads(json.dumps(declaration_object(declared)))
        self.assertEqual(promise_of(declaration_from_object(stored)), promise_of(declared))


class Bench(unittest.TestCase):
    def test_kept_traits_are_folded_and_broken_ones_stand_alone(self) -> None:
        families = bench.bench_families(comparison(evidence(tone=tone("gamma-shifted", 0.5))))
        light = families[0]
        self.assertEqual(
            {r.trait.name for r in light.broken} & {"transfer", "tone"}, {"transfer", "tone"}
        )
        self.assertTrue(light.holds_kept("mastering_display"))
        shape = next(family for family in families if family.name == "shape")
        self.assertEqual(shape.broken, ())

    def test_tally_puts_the_worst_first(self) -> None:
        verdicts = judge_survival(evidence(export=declaration(wrapper={"transfer": 1}))).verdicts
        self.assertEqual([word for word, _ in bench.tally(verdicts)], ["lost", "kept"])

    def slip(self, name: str, **changes):
        made = comparison(evidence(**changes))
        verdict = next(v for v in made.survival.verdicts if v.trait == name)
        return slip_of(made, verdict)

    def test_slip_names_every_witness_and_place(self) -> None:
        slip = self.slip("transfer", export=declaration(wrapper={"transfer": 1}))
        lines = {line.witness: line for line in slip.lines}
        self.assertEqual(lines["wrapper"].value, "1 BT.709")
        self.assertEqual(lines["wrapper"].place, "moov/…/colr")
        self.assertEqual(lines["stream"].value, "16 PQ")
        self.assertEqual(slip.cause_title, "tags in conflict")
        self.assertIn("<svg", slip.figure)

    def test_slip_tells_units_and_the_bounds_of_a_promise(self) -> None:
        light = {line.witness: line.value for line in self.slip("content_light").lines}
        self.assertEqual(light["stream"], "1000 / 200 cd/m²")
        self.assertEqual(light["picture"], "940 / 150 cd/m²")
        bounds = {"raster": explicit(None, at_least=(1280, 720))}
        raster = self.slip("raster", promise=bounds).lines[0]
        self.assertEqual((raster.witness, raster.value), ("promise", "at least 1280×720"))

    def test_a_range_lost_by_its_codes_is_cut_at_the_picture(self) -> None:
        made = comparison(evidence(tone=tone("range-compressed", 0.5)))
        verdict = next(v for v in made.survival.verdicts if v.trait == "range")
        self.assertEqual((verdict.verdict, verdict.picture), ("lost", verdict.promised))
        stations = bench._stations(made, promised.trait_by_name("range"), verdict)
        self.assertEqual([s.state for s in stations], [thread.AGREES] * 4 + [thread.DIFFERS])

    def test_slip_of_a_tone_names_the_runner_up(self) -> None:
        slip = self.slip("tone", tone=tone("gamma-shifted", 0.5))
        self.assertIn("range compressed", slip.runner_up)
        self.assertEqual(slip.frame, 3)

    def test_slip_of_the_range_tells_the_codes_in_use(self) -> None:
        line = self.slip("range").lines[-1]
        self.assertEqual((line.witness, line.value), ("codes", "80 to 700 of 1023"))
        self.assertIn("0.00% below limited black", line.place)

    def test_silent_witness_is_told(self) -> None:
        slip = self.slip("content_light", export=declaration(stream={"content_light": None}))
        self.assertIn("silent", [line.value for line in slip.lines])
        self.assertIn("Light", slip.figure)

    def test_index_is_told_by_the_order_of_the_file(self) -> None:
        slip = self.slip("index_first", export=declaration(index_first=False))
        self.assertEqual([line.value for line in slip.lines], ["yes", "after the picture data"])

    def test_causes_carry_the_worst_they_did(self) -> None:
        made = comparison(evidence(export=declaration(index_first=False, wrapper={"transfer": 1})))
        worst = {line.cause.id: line.worst for line in bench.cause_lines(made)}
        self.assertEqual(worst, {"tag-conflict": "lost", "index-last": "bent"})

    def test_every_trait_has_a_slip(self) -> None:
        made = comparison(evidence(registration=None, tone=None, difference=None))
        for verdict in made.survival.verdicts:
            self.assertTrue(slip_of(made, verdict).lines)

    def test_a_scan_that_only_the_picture_promises_has_a_slip(self) -> None:
        # no header of either file states it: it is judged since the export's frames are woven
        bare = declaration(stream={"scan": None})
        made = evidence(master=bare, export=bare, combed=0.3)
        told = judge_survey(bare, bare, made.survey)
        lost = next(one for one in told.survival.verdicts if one.trait == "scan")
        self.assertEqual(lost.verdict, "lost")
        slip = slip_of(told, lost)
        self.assertEqual(slip.lines[0].place, "the master's picture")

    def test_broken_pictures_are_shown_with_their_places(self) -> None:
        stretches = tuple((first, first + 3) for first in range(0, 80, 10))
        damage = Damage(count=9, first=2, undecoded=1, stretches=stretches)
        made = evidence()
        whole = replace(made.survey.export_statistics, damage=damage)
        told = comparison(replace(made, survey=replace(made.survey, export_statistics=whole)))
        broken = next(one for one in told.survival.verdicts if one.trait == "intact")
        slip = slip_of(told, broken)
        self.assertEqual((slip.frame, slip.cause_title), (2, "broken pictures"))
        frames = next(line for line in slip.lines if line.witness == "frames")
        self.assertTrue(frames.value.startswith("0 to 3, 10 to 13"))
        self.assertTrue(frames.value.endswith("and 2 more stretches"))
        strips = [one for one in parts(slip.figure, "rect") if one.get("class") == "broken"]
        self.assertEqual(len(strips), 8)


def stations(**states: str) -> tuple[thread.Station, ...]:
    return tuple(
        thread.Station(
            name, "PQ" if name not in states else "BT.709", states.get(name, thread.AGREES)
        )
        for name in thread.STATIONS
    )


class Threads(unittest.TestCase):
    def reach(self, drawing: str) -> list[tuple[float, float]]:
        """Return the drawn spans along the thread, sorted."""
        flat = [item for item in parts(drawing, "line") if item.get("y1") == item.get("y2")]
        inked = [item for item in flat if "ink" in item.get("class", "")]
        spans = [(float(item.get("x1", 0)), float(item.get("x2", 0))) for item in inked]
        return sorted(spans)

    def gaps(self, drawing: str) -> list[float]:
        spans = self.reach(drawing)
        return [b[0] - a[1] for a, b in pairwise(spans) if b[0] - a[1] > 0.01]

    def test_kept_is_unbroken_but_for_its_one_value(self) -> None:
        drawing = thread.thread(stations(), verdict="kept", label="x")
        self.assertEqual(len(self.gaps(drawing)), 1)
        self.assertEqual([t.text for t in parts(drawing, "text")], ["PQ"])
        self.assertAlmostEqual(self.reach(drawing)[0][0], thread.LEFT)
        self.assertAlmostEqual(self.reach(drawing)[-1][1], thread.RIGHT)

    def test_lost_is_cut_round_its_station(self) -> None:
        drawing = thread.thread(stations(Wrapper=thread.DIFFERS), verdict="lost", label="x")
        cuts = [
            item
            for item in parts(drawing, "line")
            if "mark" in item.get("class", "") and item.get("x1") == item.get("x2")
        ]
        self.assertEqual(len(cuts), 2)
        wrapper = thread.Grid().place(2)
        self.assertTrue(
            all(abs(float(c.get("x1", 0)) - wrapper) < thread.Grid().step / 2 for c in cuts)
        )
        self.assertEqual([t.text for t in parts(drawing, "text")], ["PQ", "BT.709", "PQ"])

    def test_bent_has_a_kink(self) -> None:
        drawing = thread.thread(stations(Stream=thread.DIFFERS), verdict="bent", label="x")
        self.assertEqual(len(parts(drawing, "path")), 1)

    def test_unproven_is_dotted_where_nobody_can_tell(self) -> None:
        drawing = thread.thread(stations(Picture=thread.UNKNOWN), verdict="unproven", label="x")
        dotted = [i for i in parts(drawing, "line") if "dotted" in i.get("class", "")]
        self.assertTrue(dotted)
        self.assertTrue(all(float(i.get("x1", 0)) > thread.Grid().place(3) for i in dotted))

    def test_form_alone_tells_the_verdicts_apart(self) -> None:
        forms = {
            re.sub(r'class="[^"]*"|aria-label="[^"]*"|<title>.*</title>', "", verdict_glyph(word))
            for word in ("kept", "bent", "lost")
        }
        self.assertEqual(len(forms), 3)
        self.assertIn("dotted", verdict_glyph("unproven"))

    def test_long_values_are_shortened(self) -> None:
        long = (thread.Station("Promise", "x" * 60, thread.AGREES), *stations()[1:])
        drawing = thread.thread(long, verdict="kept", label="x")
        self.assertLessEqual(len(parts(drawing, "text")[0].text or ""), thread.Grid().letters)

    def test_no_style_stands_in_any_drawing(self) -> None:
        drawings = [
            thread.thread(stations(), verdict="kept", label="x"),
            thread.bundle(4, label="x"),
            thread.station_heads(),
            tone_figure(TONE, act="gamma-shifted", full_range=False),
            verdict_glyph("lost"),
        ]
        for drawing in drawings:
            self.assertNotIn("style=", drawing)
            Tree.fromstring(drawing)

    def test_values_are_escaped(self) -> None:
        self.assertNotIn("<b>", svg.text("<b>", 0, 0, class_='"x'))


class ColourDrawings(unittest.TestCase):
    def use(self, *places: tuple[int, int]) -> ColourUse:
        """Return colours at rows and columns of both planes."""
        planes = []
        for side in (64, 90):
            rows = [[0] * side for _ in range(side)]
            for row, column in places:
                rows[row][column] = 5
            planes.append(tuple(tuple(row) for row in rows))
        return ColourUse(vector=planes[0], chromaticity=planes[1])

    def cells(self, drawing: str) -> list[tuple[float, ...]]:
        """Return left, top, width and height of each piece of ink."""
        inks = [one.get("d") for one in parts(drawing, "path") if "density" in one.get("class")]
        pieces = re.findall(r"M([\d.]+) ([\d.]+)h([\d.]+)v([\d.]+)h-[\d.]+z", "".join(inks))
        return [tuple(map(float, piece)) for piece in pieces]

    def test_neighbours_of_one_ink_are_one_piece_and_each_ink_one_path(self) -> None:
        drawn = cells(((9, 9, 0, 9), (0, 0, 0, 1)), left=10, top=20, size=40, width=80)
        self.assertEqual(len(drawn), 2)
        pieces = self.cells(f"<svg>{''.join(drawn)}</svg>")
        wanted = [(70, 20, 20, 20), (10, 40, 40, 20), (70, 40, 20, 20)]
        self.assertEqual(sorted(pieces), sorted(wanted))

    def test_chromaticities_stand_at_their_places_over_the_gamuts(self) -> None:
        # D65 lies at 0.3127, 0.3290: bins of 0.01
        drawing = gamut_figure(self.use((32, 31)), self.use())
        ((x, y, _, _),) = self.cells(drawing)
        self.assertAlmostEqual(x, x_of(0.31, 0), delta=0.1)
        self.assertAlmostEqual(y, y_of(0.33), delta=0.1)
        gamuts = [one for one in parts(drawing, "path") if "gamut" in one.get("class")]
        corners = gamuts[0].get("d")
        # BT.2020's red, H.273 table 2
        self.assertIn(f"{x_of(0.708, 0):.2f}".rstrip("0").rstrip("."), corners)
        self.assertEqual(len(gamuts), 6)

    def test_pure_colours_stand_where_the_matrix_puts_them(self) -> None:
        drawing = vector_figure(self.use(), self.use(), matrix=1, full_range=False)
        target = next(r for r in parts(drawing, "rect") if r.get("class") == "target")
        # 75 % red in BT.709: Cb 512 - 0.75·896·0.1146, Cr 512 + 0.75·896·0.5 = 435 and 848
        self.assertAlmostEqual(float(target.get("x")) + 4, 34 + 240 * 435 / 1024, delta=0.2)
        self.assertAlmostEqual(float(target.get("y")) + 4, 24 + 240 * (1 - 848 / 1024), delta=0.2)

    def test_values_can_be_read_on_every_axis(self) -> None:
        drawing = light_figure(LIGHT, promised_nits=None, peak_nits=None)
        axes = json.loads(Tree.fromstring(drawing).get("data-axes"))
        self.assertEqual(axes["y"]["unit"], "cd/m²")
        self.assertAlmostEqual(axes["y"]["values"][-1], 10_000)
        middle = axes["y"]["values"][len(axes["y"]["values"]) // 2]
        # PQ of half the signal: 92.2 cd/m² (SMPTE ST 2084)
        self.assertAlmostEqual(middle, 92.2, delta=0.1)

    def test_the_waveform_stands_on_both_axes(self) -> None:
        rows = [[0] * 96 for _ in range(128)]
        rows[64][48] = 9
        counts = tuple(tuple(row) for row in rows)
        wave = WavePair(frame=7, expected=counts, delivered=counts)
        pq = Coding(transfer=16, primaries=9, matrix=9, full_range=False)
        drawing = wave_figure(wave, pq)
        _, y, _, high = self.cells(drawing)[0]
        self.assertAlmostEqual(y + high, wave_y(512), delta=0.01)
        marks = {t.text: float(t.get("y")) for t in parts(drawing, "text")}
        # 203 cd/m² is 58 % PQ (ITU-R BT.2408): code 64 + 0.58 · 876
        self.assertAlmostEqual(marks["203"] - 4, wave_y(572.7), delta=0.3)
        made = comparison(evidence(wave=wave))
        verdict = next(v for v in made.survival.verdicts if v.trait == "range")
        self.assertIn("Waveform", slip_of(made, verdict).figure)
        unknown = wave_figure(wave, replace(pq, primaries=0))
        self.assertNotIn("cd/m²", unknown)

    def test_slips_of_colour_carry_them(self) -> None:
        made = evidence(export_colours=self.use((32, 31)), master_colours=self.use((32, 31)))
        found = comparison(made)
        for name, word in (("gamut", "Gamut:"), ("matrix", "Vector:")):
            verdict = next(v for v in found.survival.verdicts if v.trait == name)
            self.assertIn(word, slip_of(found, verdict).figure)


class Drawings(unittest.TestCase):
    def test_light_axis_is_spaced_like_pq(self) -> None:
        # ITU-R BT.2100-2: 10 000 cd/m² is signal 1, 0 is signal 0
        self.assertAlmostEqual(light_y(10_000), TOP)
        self.assertAlmostEqual(light_y(0), TOP + HEIGHT, places=3)
        self.assertAlmostEqual(light_y(203), TOP + HEIGHT * (1 - 0.580688881), places=5)

    def test_light_figure_names_its_limits(self) -> None:
        light = LightLevels(
            max_cll=900, max_fall=100, p9999=880, p999=800, series=((0, 900, 90), (1, 850, 100))
        )
        drawing = light_figure(light, promised_nits=1000, peak_nits=4000)
        self.assertIn("promised MaxCLL 1000", drawing)
        self.assertIn("display peak 4000", drawing)

    def test_shape_is_to_scale(self) -> None:
        drawing = shape_figure(
            ShownPicture("a", 2.37), ShownPicture("b", 1.7778, top=0.1, height=0.8), circle=0.75
        )
        frames = [r for r in parts(drawing, "rect") if r.get("class") == "frame"]
        for frame, ratio in zip(frames, (2.37, 1.7778), strict=True):
            shown = float(frame.get("width", 0)) / float(frame.get("height", 1))
            self.assertAlmostEqual(shown, ratio, delta=0.01)
        whole, squeezed = parts(drawing, "ellipse")
        self.assertEqual(whole.get("rx"), whole.get("ry"))
        narrow = float(squeezed.get("rx", 0)) / float(squeezed.get("ry", 1))
        self.assertAlmostEqual(narrow, 0.75, delta=0.01)

    def test_what_is_cut_off_is_drawn_beyond_the_frame(self) -> None:
        # a third of the width is kept: promised at 0.6 of what is free, delivered from the middle
        promised = ShownPicture("a", 0.8, left=-0.6, width=3.0)
        delivered = ShownPicture("b", 0.8, left=-1.0, width=3.0)
        drawing = shape_figure(promised, delivered, circle=1.0)
        frames, wholes = (
            [r for r in parts(drawing, "rect") if r.get("class") == kind]
            for kind in ("frame", "beyond")
        )
        for frame, whole, left in zip(frames, wholes, (-0.6, -1.0), strict=True):
            wide = float(frame.get("width", 0))
            self.assertAlmostEqual(float(whole.get("width", 0)), 3 * wide, delta=0.05)
            off = float(whole.get("x", 0)) - float(frame.get("x", 0))
            self.assertAlmostEqual(off / wide, left, delta=0.01)
            self.assertGreaterEqual(float(whole.get("x", 0)), 0)
        figure = shape_figure(ShownPicture("a", 1.8), ShownPicture("b", 1.8), circle=1.0)
        self.assertNotIn("beyond", figure)

    def test_tone_curve_is_drawn_beside_the_diagonal(self) -> None:
        drawing = tone_figure(
            tone("range-compressed", 0.4), act="range-compressed", full_range=False
        )
        untouched = tone_figure(TONE, act="identity", full_range=False)
        curves = [
            [one for one in parts(made, "path") if "density" not in one.get("class")]
            for made in (drawing, untouched)
        ]
        self.assertEqual([len(some) for some in curves], [1, 0])

    def test_bench_draws_a_mirrored_place(self) -> None:
        made = comparison(evidence(registration=PLACE))
        verdict = next(v for v in made.survival.verdicts if v.trait == "framing")
        self.assertIn("Shape", slip_of(made, verdict).figure)
