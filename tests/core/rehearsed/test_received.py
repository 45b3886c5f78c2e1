"""At the door: refusals and warnings by what files declare, and what pictures are taken for."""

import unittest
from dataclasses import replace

from shapkeen.core.declared import AudioTrack, Declaration
from shapkeen.core.promised import Promise, Promised
from shapkeen.core.rehearsed.received import accept, recognise
from shapkeen.core.rehearsed.stand_in import stand_in_named
from tests.builders.evidence import declaration

SDR = {"transfer": 1, "primaries": 1, "matrix": 1, "bit_depth": 8}


def sent(
    *, codec: str = "h265", size: int = 10**9, length: float = 60.0, level: str = "4.0", **said
) -> Declaration:
    """Return an HDR file's declaration with sound; said: as builders.evidence.declaration."""
    made = declaration(**said)
    track = AudioTrack(codec="aac", sample_rate_hz=48_000, channels=2)
    video = replace(made.video, codec=codec, duration_s=length, level=level)
    return replace(made, video=video, file=replace(made.file, size_bytes=size), audio=(track,))


def refused(service: str, declared: Declaration) -> list[str]:
    return [one.code for one in accept(declared, stand_in_named(service)).refusals]


def warned(service: str, declared: Declaration) -> list[str]:
    return [one.code for one in accept(declared, stand_in_named(service)).warnings]


class Acceptance(unittest.TestCase):
    def test_every_limit_is_kept_with_figure_and_cure(self) -> None:
        healthy = sent()
        mute = replace(healthy, audio=())
        odd = replace(healthy, audio=(AudioTrack(codec="opus", sample_rate_hz=44_100, channels=8),))
        avi = replace(healthy, file=replace(healthy.file, wrapper="avi"))
        for service, declared, codes in (
            ("tidewater-club", healthy, []),
            ("harbourlight-premiere", healthy, []),
            ("tidewater-club", avi, ["wrapper"]),
            ("tidewater-club", sent(codec="mpeg2"), ["codec"]),
            ("tidewater-club", sent(size=2 * 10**11), ["bytes"]),
            ("foghorn-shorts", sent(length=75.0, size=1000), ["length"]),
            ("foghorn-shorts", sent(length=0.4, size=1000), ["length"]),
            ("foghorn-shorts", sent(length=59.0, size=14 * 10**7 * 2), ["bytes", "bit-rate"]),
            ("tidewater-club", sent(both={"raster": (320, 180)}), ["raster"]),
            ("tidewater-club", sent(both={"raster": (7680, 4320)}), ["raster"]),
            ("tidewater-club", sent(both={"raster": (1080, 1920)}), []),
            ("tidewater-club", sent(both={"frame_rate": (120, 1)}), ["rate"]),
            ("harbourlight-premiere", sent(both={"frame_rate": (18, 1)}), ["rate"]),
            ("harbourlight-premiere", sent(wrapper={"pixel_aspect": (4, 3)}), ["pixel-aspect"]),
            ("harbourlight-premiere", sent(stream={"scan": "interlaced"}), ["scan"]),
            ("harbourlight-premiere", sent(both=SDR), ["light"]),
            ("beacon-broadcast", mute, ["rate", "sound", "light"]),
            ("beacon-broadcast", odd, ["rate", "sound-codec", "sound-rate", "light"]),
            ("breakwater-stream", odd, ["sound-channels"]),
            ("mole-signage", sent(codec="h264", both=SDR, level="5.1"), ["bit-rate", "level"]),
            ("mole-signage", sent(size=10**6), ["codec", "bit-depth", "light"]),
            (
                "mole-signage",
                sent(codec="h264", size=10**6, both=SDR | {"chroma": "4:2:2"}),
                ["chroma"],
            ),
        ):
            with self.subTest(service, wanted=codes):
                self.assertEqual(refused(service, declared), codes)
                for one in accept(declared, stand_in_named(service)).refusals:
                    self.assertTrue(one.value and one.limit and one.cure and one.text)

    def test_what_will_be_less_than_it_is_is_warned_of(self) -> None:
        short = sent(size=1000, length=20.0)
        silent = {"primaries": None}
        for service, declared, codes in (
            ("tidewater-club", sent(), []),
            ("breakwater-stream", sent(), ["as-sdr"]),
            ("harbourlight-premiere", sent(stream={"mastering_display": None}), ["as-sdr"]),
            ("tidewater-club", sent(wrapper=silent, stream=silent), ["as-sdr"]),
            ("tidewater-club", sent(both={"bit_depth": 8}), ["as-sdr"]),
            ("foghorn-shorts", short, ["as-sdr", "cropped"]),
            (
                "foghorn-shorts",
                sent(both={"frame_rate": (60, 1), **SDR}),
                ["cropped", "rate-halved"],
            ),
            ("tidewater-club", sent(both={"raster": (3840, 2160)}), ["fewer-lines"]),
        ):
            with self.subTest(service, wanted=codes):
                self.assertEqual(warned(service, declared), codes)

    def test_how_much_a_cut_leaves_is_told_by_arithmetic(self) -> None:
        # 16:9 cut to 4:5 keeps (4/5) / (16/9) = 45 % of the picture.
        found = accept(sent(size=1000, length=20.0), stand_in_named("foghorn-shorts"))
        self.assertIn("45% of the picture stays", found.warnings[1].value)


class Recognition(unittest.TestCase):
    def test_a_healthy_file_is_taken_for_what_it_is(self) -> None:
        for service in ("tidewater-club", "harbourlight-premiere", "breakwater-stream"):
            with self.subTest(service):
                found = recognise(sent(), stand_in_named(service))
                self.assertTrue(found.as_promised, found.wrong)
                self.assertEqual(found["transfer"], 16)

    def test_witnesses_are_believed_in_the_services_own_order(self) -> None:
        odd = sent(wrapper={"transfer": 1})
        # harbourlight believes the wrapper alone; tidewater neither where both are at odds
        self.assertEqual(recognise(odd, stand_in_named("harbourlight-premiere"))["transfer"], 1)
        self.assertEqual(recognise(odd, stand_in_named("breakwater-stream"))["transfer"], 16)
        found = recognise(odd, stand_in_named("tidewater-club"))
        self.assertEqual(found["transfer"], 1)
        self.assertIn("at odds", found.traits[0].why)

    def test_what_viewers_get_is_told_where_it_is_taken_for_something_else(self) -> None:
        sphere = {"projection": "equirectangular"}
        hlg = Promise(traits={"transfer": Promised(value=18, origin="test")})
        for service, declared, promise, trait, words in (
            ("mole-signage", sent(), None, "transfer", "Milky"),
            ("tidewater-club", sent(wrapper=sphere), None, "projection", "shown flat"),
            ("vellmar-dome", sent(stream=sphere), None, "projection", "shown flat"),
            ("tidewater-club", sent(wrapper={"stereo": "left-right"}), None, "stereo", "depth"),
            ("mole-signage", sent(wrapper={"pixel_aspect": (4, 3)}), None, "pixel_aspect", "Sque"),
            ("mole-signage", sent(wrapper={"rotation": 90}), None, "rotation", "by 270°"),
            ("mole-signage", sent(both=SDR | {"range": "full"}), None, "range", "Crushed"),
            ("beacon-broadcast", sent(stream={"transfer": 1}), hlg, "transfer", "Milky"),
        ):
            with self.subTest(service, trait=trait):
                found = recognise(declared, stand_in_named(service), promise)
                wrong = {one.trait: one for one in found.wrong}
                self.assertIn(words, wrong[trait].consequence)

    def test_where_nobody_says_what_is_meant_nothing_is_proven(self) -> None:
        silent = {"transfer": None, "projection": None}
        found = recognise(sent(wrapper=silent, stream=silent), stand_in_named("tidewater-club"))
        told = {one.trait: one.is_told for one in found.traits}
        self.assertEqual(
            (told["transfer"], told["primaries"], told["projection"]), (False, True, True)
        )

    def test_one_curve_of_several_standards_is_the_same(self) -> None:
        # ITU-T H.273 table 3: 1, 6, 14 and 15 are functionally the same.
        found = recognise(sent(both=SDR | {"transfer": 6}), stand_in_named("mole-signage"))
        self.assertTrue(found.as_promised, found.wrong)
