"""The plan's drawing: to one scale as shown, the cut where it lies, and how it is moved."""

import re
import unittest
from xml.etree import ElementTree

from shapkeen.core.reported.figures.plan import plan_figure
from tests.core.promised.test_planning import HD, MASTER, SQUEEZED, planned


def drawn(plan: object) -> ElementTree.Element:
    text = plan_figure(plan.layout, still="/still.png", inputs=("across", "down"), label="a <plan>")
    return ElementTree.fromstring(text)


def box(element: ElementTree.Element) -> tuple[float, ...]:
    return tuple(float(element.attrib[name]) for name in ("x", "y", "width", "height"))


def frames(figure: ElementTree.Element) -> list[tuple[float, ...]]:
    return [box(e) for e in figure.iter("rect") if e.attrib.get("class") == "frame"]


class PlanFigure(unittest.TestCase):
    def test_both_are_drawn_to_one_scale(self) -> None:
        master, delivered = frames(drawn(planned(HD, "breakwater-stream")))
        # 1920×1080 enlarged to 3840×2160 is twice as large in both directions
        self.assertAlmostEqual(delivered[2] / master[2], 2, 2)
        self.assertAlmostEqual(delivered[3] / master[3], 2, 2)

    def test_squeezed_masters_are_drawn_as_shown(self) -> None:
        for plan in (planned(SQUEEZED, "breakwater-stream"), planned(SQUEEZED, "lantern-archive")):
            for _, _, width, height in frames(drawn(plan)):
                self.assertAlmostEqual(width / height, 64 / 27, 2)

    def test_the_cut_lies_where_it_is_and_can_be_moved_by_samples(self) -> None:
        plan = planned(MASTER, "foghorn-shorts", across="25")
        figure = drawn(plan)
        master = frames(figure)[0]
        cut = next(e for e in figure.iter("g") if e.attrib.get("id") == "cut")
        x, _, width, height = box(cut.find("rect"))
        crop = plan.layout.crop
        self.assertAlmostEqual((x - master[0]) / master[2], crop.left / 3840, 3)
        self.assertAlmostEqual(width / master[2], crop.width / 3840, 3)
        self.assertAlmostEqual(height, master[3], 1)
        self.assertEqual(cut.attrib["data-free"], f"{3840 - crop.width} 0")
        self.assertEqual(cut.attrib["data-offset"], f"{crop.left} 0")
        scale = float(cut.attrib["data-scale"].split()[0])
        self.assertAlmostEqual(scale * 3840, master[2], 1)
        self.assertEqual(cut.attrib["data-inputs"], "across down")
        inner = next(e for e in figure.iter("svg") if "preserveAspectRatio" in e.attrib)
        view = f"{crop.left} {crop.top} {crop.width} {crop.height}"
        self.assertEqual(inner.attrib["viewBox"], view)

    def test_a_whole_picture_has_no_cut_and_bars_stand_round_it(self) -> None:
        figure = drawn(planned(HD, "harbourlight-premiere", mode="bars"))
        self.assertFalse(list(figure.iter("g")))
        wide = planned(SQUEEZED, "harbourlight-premiere", mode="bars")
        figure = drawn(wide)
        edge = next(e for e in figure.iter("rect") if e.attrib.get("class") == "picture-edge")
        frame = frames(figure)[1]
        bars = wide.layout.bars["top"] / wide.layout.cell[1]
        self.assertAlmostEqual((box(edge)[1] - frame[1]) / frame[3], bars, 3)

    def test_it_stays_in_its_room_and_escapes_its_label(self) -> None:
        for key in ("saltmarsh-mobile", "vellmar-dome", "cormorant-screens"):
            text = plan_figure(
                planned(HD, key).layout, still="/s.png", inputs=("a", "b"), label="a <plan>"
            )
            width, height = map(float, re.search(r'viewBox="0 0 (\S+) (\S+)"', text).groups())
            for x, y, w, h in frames(ElementTree.fromstring(text)):
                self.assertGreaterEqual(x, 0)
                self.assertLessEqual(x + w, width)
                self.assertLessEqual(y + h, height)
            self.assertNotIn("<plan>", text)
