"""What a copy will be judged as is what it is judged as, once it is written."""

import tempfile
import unittest
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

from shapkeen.core.cured import cure_file, forecast, has_copies, wishes_of
from tests.builders.comparing import compared
from tests.builders.media import (
    HDR,
    MASTERED,
    SDR,
    X265,
    hdr_master,
    hdr_planes,
    sdr_master,
    sdr_planes,
    write,
)

SILENT_LIGHT = HDR.with_options(**{"x265-params": X265 + MASTERED})


class Forecasts(unittest.TestCase):
    def files(self) -> dict[str, tuple[Path, Path]]:
        sdr, hdr = sdr_planes("coffee"), hdr_planes("coffee")
        wide = sdr_master("coffee", Fraction(4, 3))
        return {
            "silent": (sdr_master(), write("forecast-silent", sdr, replace(SDR, colour=None))),
            "called PQ": (
                sdr_master(),
                write("forecast-pq", sdr, replace(SDR, colour=(9, 16, 9, 1))),
            ),
            "index last": (sdr_master(), write("forecast-late", sdr, replace(SDR, flags=()))),
            "square": (wide, write("forecast-square", sdr, SDR)),
            "no light level": (hdr_master(), write("forecast-light", hdr, SILENT_LIGHT)),
        }

    def test_a_forecast_comes_true(self) -> None:
        for name, (master, export) in self.files().items():
            with self.subTest(name):
                found = compared(master, export)
                wishes = wishes_of(found)
                self.assertTrue(wishes and has_copies(found.export))
                told = forecast(found, wishes)
                goal = Path(tempfile.mkdtemp()) / f"copy{export.suffix}"
                cure_file(export, goal, wishes)
                came = compared(master, goal).survival
                sides = [{v.trait: v.verdict for v in one.verdicts} for one in (told, came)]
                self.assertEqual(*sides)
                self.assertEqual((told.overall, came.causes), ("kept", ()))
