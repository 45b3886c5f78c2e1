"""Recipes: read, refused with the place of the fault, written back the same."""

import itertools
import json
import unittest
from dataclasses import replace
from fractions import Fraction

from shapkeen.core.cured.versions import order_version, recipe_from_json, recipe_to_json
from shapkeen.core.cured.versions.encoders import ENCODERS
from shapkeen.core.cured.versions.making import shared_out
from shapkeen.core.cured.versions.spans import Span, spans_of
from shapkeen.core.cured.versions.specified import shipped_specification
from shapkeen.core.declared import read_declaration
from shapkeen.core.errors import UsageError
from tests.builders import media

PLAIN = {
    "schema": "shapkeen.recipe/1",
    "name": "Harbourlight",
    "coding": {"codec": "h264"},
    "wrapper": "mp4",
}


def recipe(**more: object):
    return recipe_from_json(json.dumps({**PLAIN, **more}))


class Form(unittest.TestCase):
    def test_what_is_written_reads_the_same(self) -> None:
        made = recipe(
            specification="harbourlight-premiere",
            promise={"raster": {"value": [640, 360]}, "transfer": {"value": 16, "from": 18}},
            coding={"codec": "h265", "profile": "Main 10", "bit_rate": 8_000_000, "passes": 2},
            sound={"codec": "aac", "loudness_lufs": -23},
            light={"tone_map": "BT.2446", "peak_nits": 600},
            scaling={"linear": True},
            **{"in": 12, "out": 96},
        )
        self.assertEqual(recipe_from_json(recipe_to_json(made)), made)
        self.assertEqual((made.first, made.end, made.sound.loudness_lufs), (12, 96, -23.0))

    def test_sound_as_one_word_and_a_whole_promise_file(self) -> None:
        whole = {"schema": "shapkeen.promise/1", "traits": {"range": {"value": "limited"}}}
        made = recipe(sound="pcm", loudness_lufs=-16, promise=whole)
        self.assertEqual((made.sound.codec, made.sound.loudness_lufs), ("pcm", -16.0))
        self.assertEqual(made.promise.value("range"), "limited")

    def test_faults_are_told_with_their_place(self) -> None:
        faults = (
            ({"name": ""}, "name"),
            ({"speed": 3}, "speed"),
            ({"coding": {"codec": "h264", "crf": "18"}}, "coding.crf"),
            ({"coding": {"codec": "h264", "loops": 3}}, "coding"),
            ({"promise": {"raster": {"value": [0, 0]}}}, "promise/raster/value"),
            ({"promise": {"taste": {"value": 1}}}, "promise/taste"),
            ({"in": 9, "out": 9}, "out"),
            ({"in": -1}, "in"),
            ({"sound": "loud"}, "sound.codec"),
            ({"sound": "copy", "loudness_lufs": -23}, "sound.codec"),
            ({"burn_in": {"text": "x" * 61}}, "burn_in.text"),
            ({"light": {"tone_map": "mine"}}, "light.tone_map"),
            ({"light": {"white_nits": 900, "peak_nits": 400}}, "light"),
        )
        for change, where in faults:
            with self.subTest(where), self.assertRaises(UsageError) as caught:
                recipe(**change)
            self.assertEqual((caught.exception.code, caught.exception.where), ("bad-recipe", where))
        for text in ("", "[]", '{"schema": "shapkeen.recipe/2"}'):
            with self.subTest(text), self.assertRaises(UsageError):
                recipe_from_json(text)


class Orders(unittest.TestCase):
    def setUp(self) -> None:
        self.sdr = read_declaration(media.sdr_master())
        self.hdr = read_declaration(media.hdr_master())

    def refused(self, master, **more: object) -> str:
        made = recipe(**more)
        with self.assertRaises(UsageError) as caught:
            specification = shipped_specification(made.specification)
            order_version(master, made, specification=specification)
        return caught.exception.where

    def test_what_no_encoder_here_makes_is_refused(self) -> None:
        refused = (
            (self.sdr, {"coding": {"codec": "mpeg2"}}, "coding.codec"),
            (self.sdr, {"coding": {"codec": "h264", "profile": "Extended"}}, "coding.profile"),
            (self.sdr, {"coding": {"codec": "prores"}}, "wrapper"),
            (self.hdr, {"coding": {"codec": "vp9"}, "wrapper": "webm"}, "coding.codec"),
            (self.hdr, {"coding": {"codec": "h265", "profile": "Main"}}, "coding.profile"),
            (
                self.sdr,
                {"coding": {"codec": "av1", "bit_rate": 10**6, "passes": 2}},
                "coding.passes",
            ),
            (self.sdr, {"coding": {"codec": "h264", "crf": 60}}, "coding.crf"),
            (self.sdr, {"coding": {"codec": "h264", "crf": 20, "bit_rate": 10**6}}, "coding.crf"),
            (self.sdr, {"coding": {"codec": "h264", "preset": "hasty"}}, "coding.preset"),
            (self.sdr, {"coding": {"codec": "h264", "keyframes_s": 0}}, "coding.keyframes_s"),
            (self.sdr, {"in": 4, "out": 4000}, "in, out"),
        )
        for master, change, where in refused:
            with self.subTest(change):
                self.assertEqual(self.refused(master, **change), where)

    def test_what_the_picture_cannot_be_is_refused(self) -> None:
        bent = {"crop": [0, 0, 320, 360], "bars": {"top": 0, "bottom": 0, "left": 0, "right": 0}}
        refused = (
            ({"raster": {"value": [640, 360]}, "framing": {"value": bent}}, "promise/framing"),
            ({"raster": {"value": [1280, 721]}}, "traits/raster"),
            ({"frame_rate": {"value": [30, 1]}}, "promise/frame_rate"),
            ({"stereo": {"value": "left-right"}}, "promise/stereo"),
            ({"pixel_aspect": {"value": [4, 3]}}, "promise/raster"),
            ({"scan": {"value": "top-first"}}, "promise/scan"),
        )
        for promise, where in refused:
            with self.subTest(promise):
                self.assertEqual(self.refused(self.sdr, promise=promise), where)

    def test_what_its_specification_does_not_take_is_refused(self) -> None:
        self.assertEqual(self.refused(self.sdr, specification="nobody"), "specification")
        spec = shipped_specification("foghorn-shorts")
        assert spec is not None
        wide = {"specification": spec.key, "coding": {"codec": "h264", "profile": "High"}}
        self.assertEqual(self.refused(self.sdr, **wide), "promise/raster")
        webm = {"coding": {"codec": "vp9"}, "wrapper": "webm", "specification": spec.key}
        self.assertEqual(self.refused(self.sdr, **webm), "coding.codec")

    def test_the_least_that_is_promised_decides_samples_and_profile(self) -> None:
        order = order_version(self.hdr, recipe(coding={"codec": "h265"}))
        self.assertEqual((order.profile, order.kind), ("Main 10", "yuv420p10le"))
        order = order_version(self.sdr, recipe(coding={"codec": "h264", "chroma": "4:2:2"}))
        self.assertEqual((order.profile, order.kind), ("High 4:2:2", "yuv422p"))
        order = order_version(self.sdr, recipe(coding={"codec": "prores"}, wrapper="mov"))
        self.assertEqual(order.kind, "yuv422p10le")

    def test_every_encoder_is_in_the_libraries(self) -> None:
        import av

        for encoder in ENCODERS:
            formats = {f.name for f in av.codec.Codec(encoder.library, "w").video_formats}
            for kinds in encoder.profiles.values():
                self.assertLessEqual(set(kinds.values()), formats, encoder.library)


class Spans(unittest.TestCase):
    def test_they_hold_every_frame_once_in_whole_groups(self) -> None:
        order = order_version(read_declaration(media.sdr_master()), recipe())
        for frames in (10, 47, 48, 49, 5000, 300_000):
            spans = spans_of(replace(order, end=frames))
            self.assertEqual((spans[0].first, spans[-1].end), (0, frames))
            for one, following in itertools.pairwise(spans):
                self.assertEqual(one.end, following.first)
                self.assertEqual(one.frames % order.group, 0)

    def test_rates_follow_need_and_make_the_whole(self) -> None:
        spans = (Span(0, 48), Span(48, 96), Span(96, 106))
        rates = shared_out(spans, (48_000, 480_000, 10_000), 2e6)
        bits = sum(rates[span.first] * span.frames for span in spans)
        self.assertAlmostEqual(bits / 106, 2e6)
        self.assertAlmostEqual(rates[48] / rates[0], 10**0.6)
        self.assertAlmostEqual(rates[96], rates[0])


class Rate(unittest.TestCase):
    def test_a_group_is_the_seconds_between_key_frames(self) -> None:
        order = order_version(
            read_declaration(media.sdr_master()),
            recipe(coding={"codec": "h264", "keyframes_s": 0.5}),
        )
        self.assertEqual((order.rate, order.group), (Fraction(24), 12))
