"""What becomes of sound at a service: turned down, up, or left alone."""

import unittest

import numpy as np

from shapkeen.core.declared import read_declaration
from shapkeen.core.rehearsed.sound import gain_of, sound_fate
from shapkeen.core.rehearsed.stand_in import stand_in_named
from tests.builders.sounding import RATE, with_sound


class Fates(unittest.TestCase):
    def test_loud_sound_is_turned_down_and_soft_sound_only_where_that_is_done(self) -> None:
        # trade fact (common practice, no source): services turn down to -14 LUFS, few turn up
        for loudness, target, louder, wanted in (
            (-9.0, -14.0, False, -5.0),
            (-23.0, -14.0, False, None),
            (-23.0, -14.0, True, 9.0),
            (-70.0, -14.0, True, None),
            (-9.0, None, True, None),
        ):
            with self.subTest(loudness=loudness, louder=louder):
                self.assertEqual(gain_of(loudness, target, louder=louder), wanted)

    def test_a_sine_of_known_loudness(self) -> None:
        # EBU Tech 3341 (from memory): a stereo sine of 1 kHz at -23 dBFS reads -23 LUFS.
        tone = 10 ** (-13 / 20) * np.sin(2 * np.pi * 1000 * np.arange(4 * RATE) / RATE)
        path = with_sound("fate-tone", np.stack([tone, tone]).astype(np.float32))
        fate = sound_fate(path, read_declaration(path), stand_in_named("tidewater-club"))
        self.assertAlmostEqual(fate.loudness_lufs, -13.0, delta=0.3)
        self.assertAlmostEqual(fate.gain_db, -1.0, delta=0.3)
        self.assertIn("turned down by", fate.text)
        self.assertIn("AAC, 192 kb/s", fate.text)
        silent = sound_fate(path, read_declaration(path), stand_in_named("mole-signage"))
        self.assertEqual(silent.text, "Played without sound.")

    def test_a_file_without_sound_has_none(self) -> None:
        path = with_sound("fate-none", None)
        self.assertIsNone(sound_fate(path, read_declaration(path), stand_in_named("mole-signage")))
