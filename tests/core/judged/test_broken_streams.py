"""Broken coded pictures through real decoders: told as such, and never blamed on the edit.

Every file is a photograph that scikit-image ships, coded by a real encoder, with bytes turned over
inside known packets.
"""

import unittest
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

from shapkeen.core.errors import UnreadableFileError
from shapkeen.core.judged import Comparison
from shapkeen.core.measured.decoded.damage import DamageFinder, SliceChecks
from tests.builders.broken import flipped
from tests.builders.comparing import compared as compare_files
from tests.builders.comparing import shared_out
from tests.builders.media import LOSSLESS, SDR, Coding, coded, photo_frames, temporary, write

FRAMES, SIZE = 36, (384, 216)
SHORT_GROUPS = SDR.with_options(crf="18", g="12")
OF_EVERY_KIND = {
    "H.264": SHORT_GROUPS,
    "MPEG-2": replace(SDR, codec="mpeg2video", options=(("b", "6000000"),), ending=".mxf"),
    "ProRes": replace(
        SDR, codec="prores_ks", options=(), pix_fmt="yuv422p10le", ending=".mov", colour=None
    ),
    "VC-3": replace(
        SDR, codec="dnxhd", options=(("profile", "dnxhr_hq"),), pix_fmt="yuv422p", ending=".mov"
    ),
    "FFV1": replace(LOSSLESS, options=(("level", "3"), ("slicecrc", "1"), ("g", "1"))),
}
HEALTHY = {
    **OF_EVERY_KIND,
    "open groups": SHORT_GROUPS.with_options(**{"x264-params": "open-gop=1:bframes=5"}),
    "H.265 open groups": replace(
        SDR,
        codec="libx265",
        options=(("preset", "ultrafast"), ("x265-params", "log-level=error:open-gop=1:keyint=12")),
    ),
    "transport stream": replace(SHORT_GROUPS, ending=".ts", flags=()),
    "intra refresh": SHORT_GROUPS.with_options(**{"x264-params": "intra-refresh=1"}),
    "FFV1 without sums": replace(LOSSLESS, options=(("level", "3"), ("slicecrc", "0"))),
}


@lru_cache(maxsize=16)
def clip(kind: str) -> Path:
    coding: Coding = HEALTHY[kind]
    depth = 10 if "10" in coding.pix_fmt else 8
    chroma = "4:2:2" if "422" in coding.pix_fmt else "4:2:0"
    frames = photo_frames("coffee", SIZE, FRAMES)
    planes = [coded(frame, matrix=1, depth=depth, chroma=chroma) for frame in frames]
    return write(f"whole-{kind.replace(' ', '-')}", planes, coding)


def compared(master: Path, export: Path) -> Comparison:
    return compare_files(master, export, frames=8)


def verdict(found: Comparison, trait: str) -> str:
    return next(one.verdict for one in found.survival.verdicts if one.trait == trait)


class BrokenStreams(unittest.TestCase):
    def test_a_whole_file_is_intact(self) -> None:
        for _, kind in shared_out([*HEALTHY], 0, 2):
            found = compared(clip(kind), clip(kind))
            causes = {cause.id for cause in found.survival.causes} - {"index-last"}
            with self.subTest(kind):
                self.assertEqual(found.survey.export_statistics.damage.count, 0)
                self.assertEqual((verdict(found, "intact"), causes), ("kept", set()))

    def test_broken_pictures_are_told_by_their_number_and_their_place(self) -> None:
        for _, kind in shared_out([*OF_EVERY_KIND], 1, 2):
            found = compared(clip(kind), flipped(clip(kind), (14, 20), times=60))
            causes = {cause.id: cause for cause in found.survival.causes}
            with self.subTest(kind):
                self.assertEqual(verdict(found, "intact"), "lost")
                self.assertEqual(causes["stream-damaged"].values, {"frames": 2, "first": 14})
                self.assertEqual(causes["stream-damaged"].traits, ("intact",))
                self.assertLessEqual(set(causes), {"stream-damaged", "index-last"})

    def test_what_rests_on_broken_frames_is_unproven_and_the_rest_is_not(self) -> None:
        found = compared(clip("H.264"), flipped(clip("H.264"), (14,), times=12))
        damage = found.survey.export_statistics.damage
        # from the key picture before, which the broken one may be coded with, to the next one
        self.assertEqual(damage.stretches, ((12, 23),))
        compared_frames = {pair.export_frame for pair in found.survey.pairs}
        self.assertTrue(compared_frames)
        self.assertTrue(compared_frames.isdisjoint(range(12, 24)))
        frames = next(one for one in found.survival.verdicts if one.trait == "frames")
        self.assertEqual(frames.verdict, "unproven")
        self.assertIn("export 12 to 23", frames.why)
        for trait in ("tone", "framing", "gamut", "shown_shape"):
            self.assertEqual(verdict(found, trait), "kept")

    def test_a_dropped_frame_elsewhere_is_still_a_dropped_frame(self) -> None:
        planes = [coded(one, matrix=1, depth=8) for one in photo_frames("coffee", SIZE, FRAMES)]
        short = write("short", [*planes[:30], *planes[32:]], SHORT_GROUPS)
        found = compared(clip("H.264"), flipped(short, (8,), times=12))
        causes = {cause.id: cause for cause in found.survival.causes}
        self.assertEqual(causes["frames-dropped"].values, {"count": 2, "at": 30})
        self.assertIn("stream-damaged", causes)

    def test_a_broken_master_leaves_the_export_intact(self) -> None:
        found = compared(flipped(clip("H.264"), (14,), times=12), clip("H.264"))
        intact = next(one for one in found.survival.verdicts if one.trait == "intact")
        self.assertEqual(intact.verdict, "kept")
        self.assertIn("The master's do not", intact.why)
        self.assertEqual(verdict(found, "frames"), "unproven")
        self.assertEqual({one.id for one in found.survival.causes}, set())

    def test_a_file_broken_all_over_is_unproven_for_that_reason(self) -> None:
        keys = tuple(range(0, FRAMES, 12))
        found = compared(clip("H.264"), flipped(clip("H.264"), keys, times=2, seed=2))
        self.assertEqual(found.survey.export_statistics.damage.count, len(keys))
        tone = next(one for one in found.survival.verdicts if one.trait == "tone")
        self.assertEqual(tone.verdict, "unproven")
        self.assertIn("Broken pictures", tone.why)
        self.assertEqual([one.id for one in found.survival.causes], ["stream-damaged"])

    def test_a_file_of_which_hardly_a_picture_decodes_is_no_other_film(self) -> None:
        ruined = flipped(clip("H.264"), tuple(range(FRAMES)), times=60)
        with self.assertRaises(UnreadableFileError) as caught:
            compared(clip("H.264"), ruined)
        self.assertEqual(caught.exception.code, "stream-damaged")

    def test_wrappers_that_are_cut_off_are_told(self) -> None:
        avi = replace(SHORT_GROUPS, ending=".avi", flags=())
        planes = [coded(one, matrix=1, depth=8) for one in photo_frames("coffee", SIZE, 8)]
        for path in (clip("MPEG-2"), write("cut", planes, avi)):
            data = path.read_bytes()
            cut = temporary(f"cut-{path.name}", data[: len(data) * 6 // 10])
            with self.subTest(path.suffix), self.assertRaises(UnreadableFileError) as caught:
                compared(path, cut)
            self.assertEqual(caught.exception.code, "truncated")
            self.assertIn("cut off", caught.exception.text)


class Stretches(unittest.TestCase):
    def told(self, *seen: tuple[int, bool, bool], span=(None, None)):
        finder = DamageFinder(*span)
        for ticks, is_key, is_broken in seen:
            finder.see(ticks, is_key=is_key, is_broken=is_broken)
        return finder.result(lambda ticks: ticks)

    def test_from_the_picture_to_the_next_key_picture(self) -> None:
        frames = [(n, n % 12 == 0, n == 30) for n in range(48)]
        found = self.told(*frames)
        self.assertEqual((found.frames, found.stretches), ((30,), ((24, 35),)))

    def test_pictures_before_the_first_key_picture_tell_nothing(self) -> None:
        # behind a seek into an open group, they lack what they were coded from
        found = self.told((8, False, True), (9, False, True), (10, True, False), (11, False, False))
        self.assertEqual((found.frames, found.stretches), ((), ()))

    def test_what_was_broken_before_a_span_is_not_counted_in_it(self) -> None:
        frames = [(n, n == 0, n == 3) for n in range(12)]
        found = self.told(*frames, span=(6, 12))
        self.assertEqual((found.frames, found.stretches), ((), ((0, 11),)))

    def test_a_coded_picture_that_gives_none(self) -> None:
        finder = DamageFinder()
        finder.see(0, is_key=True, is_broken=False)
        finder.fail(1, is_key=False)
        finder.see(2, is_key=True, is_broken=False)
        found = finder.result(lambda ticks: ticks)
        self.assertEqual((found.frames, found.undecoded, found.stretches), ((1,), 1, ((0, 1),)))

    def test_sums_of_slices(self) -> None:
        # RFC 9043 section 4.9.3: the CRC-32 over a slice with its own sum behind it is 0
        import zlib

        turned = bytes(int(f"{n:08b}"[::-1], 2) for n in range(256))
        body = bytes(range(40)) + (40).to_bytes(3, "big") + b"\0"
        crc = zlib.crc32(body.translate(turned), 0xFFFFFFFF) ^ 0xFFFFFFFF
        whole = body + int(f"{crc:032b}"[::-1], 2).to_bytes(4, "big")
        checks = SliceChecks()
        self.assertFalse(checks.is_broken(b"\xff" + whole[1:]))  # no picture passed yet
        self.assertFalse(checks.is_broken(whole))
        self.assertTrue(checks.is_broken(b"\xff" + whole[1:]))
