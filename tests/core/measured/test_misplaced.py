"""Unconverted graphics inside an HDR picture, and what must not pass for one."""

import unittest

import numpy as np

from shapkeen.core.colour.coding import Coding
from shapkeen.core.measured.tone.misplaced import cell_means, find_misplaced
from tests.builders.media import HDR, PHOTOS, hdr_master, hdr_planes, write
from tests.core.judged.test_damage import compare

PQ = Coding(transfer=16, primaries=9, matrix=9, full_range=False)
# ITU-R BT.2408: graphics white at 203 cd/m², 58 % PQ; SDR white unconverted is 100 %.
RIGHT, UNCONVERTED = 64 + round(0.58 * 876), 940


def with_strap(planes: list, code: int) -> list:
    """Return planes with a lower third of this luma code."""
    made = []
    for luma, cb, cr in planes:
        y, u, v = luma.copy(), cb.copy(), cr.copy()
        y[280:320, 80:360], u[140:160, 40:180], v[140:160, 40:180] = code, 512, 512
        made.append((y, u, v))
    return made


class Inserts(unittest.TestCase):
    def test_an_unconverted_strap_is_pointed_out(self) -> None:
        for photo in ("coffee", "astronaut"):
            planes = hdr_planes(photo)
            master = write(f"strap-{photo}", with_strap(planes, RIGHT), HDR.with_options(crf="6"))
            export = write("strap-export", with_strap(planes, UNCONVERTED), HDR)
            found = compare(master, export)
            area = found.survey.misplaced[0]
            # 12.5 % to 56 % across, 78 % to 89 % down
            self.assertAlmostEqual(area.left, 0.125, delta=0.05)
            self.assertAlmostEqual(area.top, 0.78, delta=0.06)
            self.assertAlmostEqual(area.expected_nits / 203, 1, delta=0.08)
            self.assertGreater(area.delivered_nits, 5000)
            verdict = next(v for v in found.survival.verdicts if v.trait == "tone")
            self.assertEqual(verdict.verdict, "lost")
            self.assertIn("bottom", verdict.why)
            healthy = compare(master, write("strap-same", with_strap(planes, RIGHT), HDR))
            self.assertEqual(healthy.survey.misplaced, ())

    def test_healthy_photographs_have_none(self) -> None:
        for photo in PHOTOS:
            export = write("strap-none", hdr_planes(photo), HDR.with_options(crf="24"))
            self.assertEqual(compare(hdr_master(photo), export).survey.misplaced, (), photo)

    def test_what_does_not_last_or_covers_all_is_no_insert(self) -> None:
        even = np.full((160, 320), 400.0, np.float32)
        flash = even.copy()
        flash[:64, :64] = 800
        one = [cell_means(i, even, flash if i == 0 else even) for i in range(8)]
        self.assertEqual(find_misplaced(one, PQ), ())
        everywhere = [cell_means(i, even, even + 200) for i in range(8)]
        self.assertEqual(find_misplaced(everywhere, PQ), ())
        lasting = [cell_means(i, even, flash) for i in range(8)]
        self.assertEqual(len(find_misplaced(lasting, PQ)), 1)
