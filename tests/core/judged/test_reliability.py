"""Confidence is the measured share, by Laplace's rule of succession, or nothing."""

import unittest
from dataclasses import replace
from unittest.mock import patch

from shapkeen.core.judged import reliability
from shapkeen.core.judged.survival import judge_survival
from tests.builders.evidence import PLACE, evidence


class Confidence(unittest.TestCase):
    def test_rule_of_succession(self) -> None:
        counted = {"cropped": (18, 17), "softened": (reliability.LEAST_NAMED - 1, 7)}
        with patch.object(reliability, "MEASURED", counted):
            self.assertEqual(reliability.confidence_of("cropped"), 0.9)
            self.assertIsNone(reliability.confidence_of("softened"))
            self.assertIsNone(reliability.confidence_of("rotated"))

    def test_never_certain(self) -> None:
        for cause, (named, right) in reliability.MEASURED.items():
            self.assertLessEqual(right, named, cause)
            self.assertLess(reliability.confidence_of(cause) or 0, 1, cause)

    def test_a_named_cause_carries_it(self) -> None:
        turned = evidence(registration=replace(PLACE, turn=180))
        (cause,) = judge_survival(turned).causes
        self.assertEqual((cause.id, cause.confidence), ("rotated", 0.91))
