"""A look-up table's drawings: greys from corner to corner, hues round the middle."""

import re
import unittest
from xml.etree import ElementTree

import numpy as np

from shapkeen.core.colour.lookup import LookUpTable, lattice
from shapkeen.core.reported.figures import table

LATTICE = lattice(17).reshape(17, 17, 17, 3)


def paths(text: str, kind: str) -> list[np.ndarray]:
    figure = ElementTree.fromstring(text)
    drawn = [e.attrib["d"] for e in figure.iter("path") if e.attrib["class"].startswith(kind)]
    return [np.array(re.findall(r"-?[\d.]+", d), float).reshape(-1, 2) for d in drawn]


class TableFigures(unittest.TestCase):
    def test_greys_that_stay_lie_on_the_diagonal(self) -> None:
        for path in paths(table.table_figure(LookUpTable(LATTICE)), "fitted"):
            x, y = (path - (table.MARGIN, table.TOP)).T
            np.testing.assert_allclose(x, table.SIZE - y, atol=0.1)

    def test_a_channel_that_is_lifted_is_drawn_above(self) -> None:
        lifted = LookUpTable(LATTICE ** np.array([0.5, 1.0, 1.0]))
        red, green, _ = paths(table.table_figure(lifted), "fitted")
        middle = len(red) // 2
        self.assertAlmostEqual(red[middle][1], table.TOP + table.SIZE * (1 - 0.5**0.5), delta=0.2)
        self.assertAlmostEqual(green[middle][1], table.TOP + table.SIZE / 2, delta=0.2)

    def test_hues_that_stay_lie_on_their_rings(self) -> None:
        text = table.hues_figure(LookUpTable(LATTICE))
        for ring, made in zip(paths(text, "ideal"), paths(text, "fitted"), strict=True):
            np.testing.assert_allclose(ring, made, atol=0.1)

    def test_less_colour_makes_smaller_rings(self) -> None:
        grey = (LATTICE @ table.GREY)[..., None]
        text = table.hues_figure(LookUpTable(grey + (LATTICE - grey) / 2))
        middle = (table.MARGIN + table.SIZE / 2, table.TOP + table.SIZE / 2)
        for ring, made in zip(paths(text, "ideal"), paths(text, "fitted"), strict=True):
            np.testing.assert_allclose(ring - middle, 2 * (made - middle), atol=0.3)
