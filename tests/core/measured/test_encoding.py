"""How fast this machine encodes: a trial, and what it must leave as it was."""

import os
import unittest
from unittest.mock import patch

from shapkeen.core.errors import UsageError
from shapkeen.core.measured import encoding
from tests.builders.media import sdr_master


class Trial(unittest.TestCase):
    def test_tells_samples_a_second_and_leaves_scheduling_as_it_was(self) -> None:
        before = os.sched_getscheduler(0)
        with patch.object(encoding, "TRIAL_S", 0.5):
            for codec in ("h264", "av1", "prores"):
                found = encoding.measure_speed(
                    sdr_master(), codec, (320, 180), depth=8, bit_rate=1_000_000
                )
                with self.subTest(codec):
                    self.assertGreater(found, 320 * 180)
                    self.assertEqual(os.sched_getscheduler(0), before)

    def test_what_cannot_be_tried_is_said(self) -> None:
        for codec, raster, code in (
            ("wax", (320, 180), "no-encoder"),
            ("h264", (321, 180), "not-encodable"),
        ):
            with self.subTest(codec), self.assertRaises(UsageError) as caught:
                encoding.measure_speed(sdr_master(), codec, raster, depth=8, bit_rate=1_000_000)
            self.assertEqual(caught.exception.code, code)
