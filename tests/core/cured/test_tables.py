"""Look-up tables put to use by the FFmpeg libraries' own filters, and measured by colour-science.

Photographs: scikit-image's open samples; injuries as in judged/test_conversions.py. The goal, a
mean difference of 1, is the least that is seen: ITU-R BT.2124-0, and CIE 142-2001 for SDR.
"""

import tempfile
import unittest
import warnings
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import av
import numpy as np

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

from shapkeen.core.colour.cube_file import cube_text, read_cube
from shapkeen.core.colour.lookup import LookUpTable, lattice
from shapkeen.core.cured.tables import EXPORT, SOURCE, DriftTable, NoTable, table_for
from shapkeen.core.reported.table import table_text
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import shared_out
from tests.builders.media import HDR, LOSSLESS, SDR, changed, write
from tests.core.judged.test_conversions import (
    SPACES,
    Signal,
    hdr_signal,
    master,
    planes,
    pq_light,
    pq_signal,
    sdr_signal,
    to_gamut,
    to_hlg,
)

SEEN = 1.0
FINE = HDR.with_options(crf="4")
"""So fine that coding is not seen in the dark, where ΔE ITP is strict."""
OWN = {"sdr": 1, "hdr": 9}
FORMATS = {"sdr": "yuv420p", "hdr": "yuv420p10le"}
Export = Callable[[list[Signal]], list]


def power(exponent: float) -> Export:
    return lambda frames: planes([np.clip(f, 0, 1) ** exponent for f in frames], hdr=False, by=1)


def by_matrix(code: int, *, hdr: bool = False) -> Export:
    return lambda frames: planes(frames, hdr=hdr, by=code)


def injured(injury: Callable[[Signal], Signal]) -> Export:
    return lambda frames: planes([injury(frame) for frame in frames], hdr=True, by=9)


def in_range(luma: Callable, chroma: Callable) -> Export:
    return lambda frames: changed(planes(frames, hdr=False, by=1), luma=luma, chroma=chroma)


SQUEEZED = in_range(lambda y: 16 + y * 219 / 255, lambda c: 128 + (c - 128) * 224 / 255)
STRETCHED = in_range(lambda y: (y - 16) * 255 / 219, lambda c: 128 + (c - 128) * 255 / 224)
CASES: tuple[tuple[str, str, str, Export, str, tuple[str, ...]], ...] = (
    ("power 0.9", "coffee", "sdr", power(0.9), "gamma-shifted", (SOURCE, EXPORT)),
    ("power 1.1", "chelsea", "sdr", power(1.1), "gamma-shifted", (SOURCE, EXPORT)),
    ("wrong matrix", "astronaut", "sdr", by_matrix(6), "matrix-swapped", (SOURCE, EXPORT)),
    ("2.2 for 2.4", "astronaut", "sdr", power(2.2 / 2.4), "gamma-shifted", (SOURCE, EXPORT)),
    ("squeezed", "coffee", "sdr", SQUEEZED, "range-compressed", (EXPORT,)),
    ("stretched", "coffee", "sdr", STRETCHED, "range-expanded", (SOURCE,)),
    ("P3 for 2020", "coffee", "hdr", injured(to_gamut(9, 12, hdr=True)), "gamut-converted",
     (SOURCE, EXPORT)),
    ("HLG for PQ", "chelsea", "hdr", injured(to_hlg), "transfer-converted", (SOURCE, EXPORT)),
)  # fmt: skip
"""Name, photograph, kind of master, export, cause, and where its table is tried."""


def signals(photo: str, kind: str) -> list[Signal]:
    return sdr_signal(photo) if kind == "sdr" else hdr_signal(photo)


def shown(path: Path, kind: str, table: str | None = None) -> list[Signal]:
    """Return R'G'B' of the frames as the FFmpeg libraries show them, a table put over them."""
    by = "bt709" if kind == "sdr" else "bt2020"
    steps = [("scale", f"in_color_matrix={by}:in_range=tv:flags=accurate_rnd+bicubic")]
    steps += [("format", "gbrpf32le")]
    if table is not None:
        cube = Path(tempfile.mkdtemp()) / "table.cube"
        cube.write_text(table)
        over = "lut3d" if "LUT_3D" in table else "lut1d"
        steps += [(over, f"file={cube}" + (":interp=tetrahedral" if over == "lut3d" else ""))]
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        graph = av.filter.Graph()
        nodes = [graph.add_buffer(template=stream)]
        nodes += [graph.add(name, options) for name, options in [*steps, ("buffersink", "")]]
        graph.link_nodes(*nodes).configure()
        frames = []
        for frame in container.decode(stream):
            graph.push(frame)
            frames.append(graph.pull().to_ndarray(format="gbrpf32le").astype(np.float64))
    return frames


def difference(frames: list[Signal], expected: list[Signal], kind: str) -> float:
    """Return the mean difference of means of 8 × 8 samples, by colour-science."""
    found = []
    for one, other in zip(frames, expected, strict=True):
        sides = [_small(np.clip(side, 0, 1)) for side in (one, other)]
        if kind == "sdr":
            labs = [_lab(side) for side in sides]
            found.append(colour.difference.delta_E_CIE2000(*labs))
        else:
            codes = [colour.RGB_to_ICtCp(pq_light(side), L_p=10_000) for side in sides]
            found.append(colour.difference.delta_E_ITP(*codes))
    return float(np.mean(found))


def _small(signal: Signal) -> Signal:
    height, width = (side // 8 * 8 for side in signal.shape[:2])
    return signal[:height, :width].reshape(height // 8, 8, width // 8, 8, 3).mean(axis=(1, 3))


def _lab(signal: Signal) -> Signal:
    space = colour.RGB_COLOURSPACES[SPACES[1]]
    return colour.XYZ_to_Lab(colour.RGB_to_XYZ(signal**2.4, space), space.whitepoint)


class PutToUse(unittest.TestCase):
    """Every other case each time; all of them where `make acts` asks."""

    def test_the_export_comes_back_to_what_was_promised(self) -> None:
        for _, case in shared_out(CASES, 0, 2):
            name, photo, kind, export, cause, uses = case
            with self.subTest(name):
                self.tried(photo, kind, export, cause, uses)

    def tried(self, photo: str, kind: str, export: Export, cause: str, uses: tuple) -> None:
        coding = SDR if kind == "sdr" else FINE
        path = write("table-export", export(signals(photo, kind)), coding)
        found = compare_files(master(photo, kind), path)
        self.assertIn(cause, [one.id for one in found.survival.causes])
        expected = shown(master(photo, kind), kind)
        before = difference(shown(path, kind), expected, kind)
        self.assertGreater(before, 1.5 * SEEN)
        for use in uses:
            made = table_for(found, use=use)
            self.assertIsInstance(made, DriftTable, use)
            self.assertEqual(made.undoes, (cause,))
            self.assertEqual(made.table.kind, "1d" if cause == "gamma-shifted" else "3d")
            text = table_text(made, master="m", export="e")
            if use == EXPORT:
                after = difference(shown(path, kind, text), expected, kind)
            else:
                out = shown(master(photo, kind), kind, text)
                healthy = coded_again(planes(expected, hdr=kind != "sdr", by=OWN[kind]), kind)
                after = difference(coded_again(export(out), kind), healthy, kind)
            self.assertLess(after, SEEN, use)
            self.assertLess(made.after.mean, made.before.mean / 3)


def coded_again(made: list, kind: str) -> list[Signal]:
    """Return R'G'B' of what a program puts out: chroma of half size alone moves HDR by 1.4."""
    return shown(write("table-again", made, replace(LOSSLESS, pix_fmt=FORMATS[kind])), kind)


class Refused(unittest.TestCase):
    def made(self, export: Export, kind: str, use: str) -> DriftTable | NoTable:
        coding = SDR if kind == "sdr" else HDR
        path = write("table-export", export(signals("coffee", kind)), coding)
        return table_for(compare_files(master("coffee", kind), path), use=use)

    def test_a_healthy_export_has_no_drift(self) -> None:
        made = self.made(by_matrix(1), "sdr", EXPORT)
        self.assertIsInstance(made, NoTable)
        self.assertIn("no drift", made.why)

    def test_cut_highlights_do_not_come_back(self) -> None:
        cut = injured(lambda signal: np.minimum(signal, pq_signal(np.array(250.0))))
        for use in (SOURCE, EXPORT):
            made = self.made(cut, "hdr", use)
            self.assertIsInstance(made, NoTable)
            self.assertIn("highlights cut at 2", made.why)

    def test_what_comes_back_beside_a_cut_is_written_and_the_rest_told(self) -> None:
        both = injured(lambda signal: np.minimum(signal, pq_signal(np.array(250.0))) ** 1.15)
        made = self.made(both, "hdr", EXPORT)
        self.assertIsInstance(made, DriftTable)
        self.assertGreater(made.beyond.share, 0)

    def test_black_that_a_program_cannot_put_out_is_told(self) -> None:
        made = self.made(SQUEEZED, "sdr", SOURCE)
        self.assertIsInstance(made, DriftTable)
        self.assertGreater(made.beyond.share, 0)
        self.assertIn("outside", made.beyond.why)


class Reading(unittest.TestCase):
    """Against the FFmpeg libraries' tetrahedral reading, and colour-science's."""

    def setUp(self) -> None:
        steps = lattice(17)
        bent = np.stack([steps[:, 0] ** 1.2, steps @ (0.1, 0.8, 0.1), steps[:, 2] ** 0.8], axis=-1)
        self.table = LookUpTable(bent.reshape(17, 17, 17, 3))
        self.colours = np.random.default_rng(5).random((500, 3))

    def test_tetrahedral_reading(self) -> None:
        reference = colour.algebra.table_interpolation_tetrahedral(self.colours, self.table.values)
        np.testing.assert_allclose(self.table.apply(self.colours), reference, atol=1e-6)

    def test_a_table_survives_its_text(self) -> None:
        curve = LookUpTable(np.linspace(0, 1, 1024)[:, None] ** np.array([[0.9, 1.0, 1.1]]))
        for table in (self.table, curve):
            text = cube_text(table, title='of "colours"', comments=["one\nline"])
            back = read_cube(text)
            np.testing.assert_allclose(back.values, table.values, atol=1e-6)
            path = Path(tempfile.mkdtemp()) / "table.cube"
            path.write_text(text)
            other = colour.read_LUT(str(path))
            np.testing.assert_allclose(other.table, table.values, atol=1e-6)

    def test_what_is_no_table_is_told_by_its_line(self) -> None:
        for text, told in (
            ("", "no size"),
            ("LUT_3D_SIZE x\n", "Line 1"),
            ("LUT_1D_SIZE 2\n0 0 0\n", "should hold 2 rows"),
            ("LUT_1D_SIZE 2\n0 0 0\n1 nan 1\n", "Line 3"),
            ("LUT_1D_SIZE 2\nDOMAIN_MAX 2 2 2\n0 0 0\n1 1 1\n", "Line 2"),
            ("LUT_3D_SIZE 99999999\n", "Line 1"),
        ):
            with self.assertRaisesRegex(ValueError, told):
                read_cube(text)
