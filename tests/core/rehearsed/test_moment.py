"""One moment of both pictures: kept, probed, and drawn as a difference."""

import io
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import colour
import cv2
import numpy as np
from skimage.io import imread

from shapkeen.core.colour import pq
from shapkeen.core.declared import read_declaration
from shapkeen.core.errors import UsageError
from shapkeen.core.judged import plan_reading
from shapkeen.core.measured import Source
from shapkeen.core.measured.alignment.picture_map import PictureMap
from shapkeen.core.measured.decoded.grid import Rect
from shapkeen.core.measured.model import coding_of
from shapkeen.core.rehearsed.heat import INKS, difference_of, render_difference
from shapkeen.core.rehearsed.moment import Moment, load_moment, save_moment
from shapkeen.core.rehearsed.probe import Area, probe_moment
from shapkeen.core.rehearsed.screen import RENDERERS
from tests.builders import media
from tests.core.measured.test_frame_statistics import READING, pq_frame


def picture_map(rect: Rect | None = None, own=READING, goal=READING) -> PictureMap:
    return PictureMap(rect or Rect(), 0, False, coding_of(own), coding_of(goal))


def flat(one: tuple[float, float, float], other: tuple[float, float, float]) -> Moment:
    """Return a moment of two even pictures in linear BT.2020 light."""
    frames = [pq_frame(np.full((16, 24, 3), light)) for light in (one, other)]
    return Moment(frames[0], frames[1], READING, READING, picture_map())


class Probing(unittest.TestCase):
    ONE, OTHER = (120.0, 60.0, 20.0), (100.0, 70.0, 25.0)

    def test_values_against_colour_science(self) -> None:
        found = probe_moment(flat(self.ONE, self.OTHER), Area(0.5, 0.5))
        space = colour.RGB_COLOURSPACES["ITU-R BT.2020"]
        xyz = space.matrix_RGB_to_XYZ @ np.array(self.ONE)
        # a 12-bit code is 0.3 % of light
        self.assertAlmostEqual(found.master.luminance / xyz[1], 1, delta=0.01)
        np.testing.assert_allclose(found.master.light, self.ONE, rtol=0.02)
        np.testing.assert_allclose(found.master.xy, colour.XYZ_to_xy(xyz), atol=0.002)
        both = (
            colour.RGB_to_ICtCp(np.array(light), method="ITU-R BT.2100-2 PQ", L_p=10000)
            for light in (self.ONE, self.OTHER)
        )
        self.assertAlmostEqual(
            found.difference, float(colour.difference.delta_E_ITP(*both)), delta=0.4
        )
        self.assertEqual((found.unit, found.master.depth, found.master.samples), ("ΔE ITP", 12, 1))
        self.assertEqual(found.master.place, (12, 8))

    def test_an_area_is_a_mean_and_is_cut_to_the_picture(self) -> None:
        light = np.zeros((16, 24, 3))
        light[:, :12] = 100.0
        made = replace(flat(self.ONE, self.OTHER), master=pq_frame(light))
        found = probe_moment(made, Area(0.25, 0.0, 0.5, 2.0)).master
        self.assertEqual(found.samples, 12 * 16)
        self.assertAlmostEqual(found.luminance, 50.0, delta=1.0)
        corner = probe_moment(made, Area(0.99999, 0.99999)).master
        self.assertEqual((corner.place, corner.xy), ((23, 15), None))

    def test_unknown_colours_give_codes_alone(self) -> None:
        reading = replace(READING, primaries=None)
        made = replace(
            flat(self.ONE, self.OTHER),
            export_reading=reading,
            picture_map=picture_map(Rect(), reading, reading),
        )
        found = probe_moment(made, Area(0.1, 0.1))
        self.assertIsNone(found.difference)
        self.assertIsNone(found.export.light)
        self.assertGreater(found.export.codes[0], 64)
        with self.assertRaises(UsageError):
            difference_of(made)

    def test_sdr_is_told_in_ciede2000(self) -> None:
        reading = replace(READING, transfer=1, primaries=1, matrix=1)
        made = replace(flat(self.ONE, self.ONE), master_reading=reading, export_reading=reading)
        found = probe_moment(made, Area(0.1, 0.1))
        self.assertEqual((found.unit, found.difference), ("CIEDE2000", 0.0))


class Kept(unittest.TestCase):
    def test_a_moment_comes_back_from_disk_and_a_copy_differs_nowhere(self) -> None:
        path = media.hdr_master()
        source = Source(path, plan_reading(read_declaration(path)))
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "moment.npz"
            made = save_moment(file, source, source, (3, 3), picture_map())
            again = load_moment(file)
        np.testing.assert_array_equal(made.export.luma, again.export.luma)
        self.assertEqual(made.master.depth, again.master.depth)
        kept = again.export_reading
        self.assertEqual((kept.transfer, kept.primaries, kept.matrix), (16, 9, 9))
        self.assertLess(float(difference_of(again).max()), 1e-9)
        shown = imread(io.BytesIO(render_difference(again, (4, 3))))
        self.assertEqual(shown.shape, (540, 1280, 3))
        self.assertTrue((shown == np.floor(INKS[0] * 255 + 0.5)).all())

    def test_hlg_beside_its_own_pq_differs_nowhere(self) -> None:
        # BT.2100 conversion at 1000 cd/m²: the same light in two codings
        light = np.full((16, 16, 3), (180.0, 90.0, 40.0))
        signal = colour.models.eotf_inverse_BT2100_HLG(light, L_B=0, L_W=1000)
        hlg_frame = pq_frame(pq.light_from_signal(signal))  # codes that hold this signal
        own = replace(READING, transfer=18)
        made = Moment(hlg_frame, pq_frame(light), own, READING, picture_map(own=own))
        self.assertLess(float(difference_of(made).max()), 1.0)

    def test_a_cut_export_is_held_against_the_part_that_it_shows(self) -> None:
        chance = np.random.default_rng(6)
        light = cv2.resize(chance.uniform(1, 200, (9, 12, 3)), (320, 192))
        whole, cut = pq_frame(light), pq_frame(light[32:160, 40:280])
        rect = Rect(-40 / 240, -32 / 128, 320 / 240, 192 / 128)
        made = Moment(whole, cut, READING, READING, picture_map(rect))
        self.assertLess(float(difference_of(made).max()), 0.3)
        self.assertGreater(float(difference_of(replace(made, picture_map=picture_map())).max()), 5)
        there = probe_moment(made, Area(100.5 / 320, 100.5 / 192))
        self.assertEqual((there.master.place, there.export.place), ((100, 100), (60, 68)))
        self.assertEqual(there.master.codes, there.export.codes)
        # bars round a picture that lies within the export's frame stay the surround's grey
        within = replace(
            made, master=cut, export=whole, picture_map=picture_map(Rect(0.125, 1 / 6, 0.75, 2 / 3))
        )
        shown = imread(io.BytesIO(render_difference(within, (1, 1))))
        self.assertEqual(shown.shape, (576, 960, 3))
        self.assertTrue((shown[:90] == 0x4D).all())
        self.assertTrue((shown[110:460, 130:820] == np.floor(INKS[0] * 255 + 0.5)).mean() > 0.95)


class Screens(unittest.TestCase):
    def test_a_screen_of_a_peak_cuts_above_it(self) -> None:
        signals = pq.signal_from_light(np.array([[[150.0] * 3, [300.0] * 3, [900.0] * 3]]))
        low, peak, above = RENDERERS["peak300"](signals.astype(np.float32), READING)[0, :, 1]
        self.assertLess(low, 0.8)
        self.assertAlmostEqual(float(peak), 1.0, delta=0.005)
        self.assertAlmostEqual(float(above), 1.0, delta=0.005)

    def test_another_power_lightens_mid_tones_and_keeps_the_ends(self) -> None:
        signals = np.array([[[0.0] * 3, [0.5] * 3, [1.0] * 3]], dtype=np.float32)
        black, middle, white = RENDERERS["gamma22"](signals, replace(READING, transfer=1))[0, :, 0]
        self.assertEqual((black, white), (0.0, 1.0))
        # 0.5^2.2 of light instead of 0.5^2.4, on a screen that undoes 2.4
        self.assertAlmostEqual(float(middle), 0.5 ** (2.2 / 2.4), places=5)
