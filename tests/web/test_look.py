"""Look: the strip of every frame, areas and places, and the stills drawn ahead."""

import json
import re
import threading
import time
from dataclasses import replace
from unittest import TestCase, mock

from shapkeen.core.errors import CoreError
from shapkeen.core.measured import FrameLikeness, LikenessSeries, Misplaced
from shapkeen.core.measured.survey.series import thinned_for_drawing
from shapkeen.web.bench.services import comparison_of
from shapkeen.web.library.models import Attempt
from shapkeen.web.look import elsewhere, neighbours, stills
from shapkeen.web.look.ahead import WORK, start_drawing
from shapkeen.web.look.moments import MOST_MOMENTS, areas_of, laid_over, strip_of
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.builders.evidence import PLACE, SURVEY
from tests.web.base import WebCase


def frames(count: int, worst: dict[int, float]) -> LikenessSeries:
    return LikenessSeries.of(
        FrameLikeness(
            master_frame=n + 2, export_frame=n, ssim=0.98, psnr=41.0, delta_e=worst.get(n, 0.5)
        )
        for n in range(count)
    )


class Strips(TestCase):
    def test_every_frame_is_a_row_and_the_worst_stand_apart(self) -> None:
        worst = {40: 7.0, 41: 6.9, 200: 5.0, 10: 4.0}
        strip = strip_of(replace(SURVEY, series=frames(300, worst)))
        self.assertEqual((len(strip.rows), strip.each), (300, 1))
        self.assertEqual(strip.rows[40], (42, 40, 0.98, 41.0, 7.0, None))
        self.assertEqual(strip.worst[:3], (40, 200, 10))
        self.assertNotIn(41, strip.worst)  # beside the worst of all: the same moment
        self.assertEqual(strip.nearest(1000), 299)

    def test_a_long_film_shows_the_worst_of_each_stretch(self) -> None:
        count = MOST_MOMENTS * 2 + 100
        strip = strip_of(replace(SURVEY, series=frames(count, {7001: 9.0})))
        self.assertLessEqual(len(strip.rows), MOST_MOMENTS)
        self.assertEqual(strip.rows[strip.worst[0]][1], 7001)

    def test_a_thinned_film_keeps_the_worst_of_each_stretch(self) -> None:
        kept = thinned_for_drawing(replace(SURVEY, series=frames(144_000, {70_001: 9.0})))
        strip = strip_of(kept)
        self.assertEqual((len(strip.rows), strip.each), (2000, 72))
        self.assertEqual(strip.rows[strip.worst[0]][1], 70_001)

    def test_without_a_comparison_the_chosen_pairs_are_shown(self) -> None:
        strip = strip_of(replace(SURVEY, series=LikenessSeries()))
        self.assertEqual([row[1] for row in strip.rows], [3])

    def test_places_of_a_cut_picture(self) -> None:
        self.assertEqual(laid_over(SURVEY), (0.0, 0.0, 1.0, 1.0))
        cut = replace(PLACE, left=-192.0, width=2304.0)
        area = Misplaced(
            left=0.5,
            top=0.25,
            width=0.1,
            height=0.1,
            frame=3,
            expected_code=500,
            delivered_code=700,
            expected_nits=100,
            delivered_nits=600,
        )
        made = replace(SURVEY, registration=cut, misplaced=(area,))
        self.assertEqual(laid_over(made), (-0.1, 0.0, 1.2, 1.0))
        self.assertEqual(areas_of(made), [(0.5, 0.25, 0.1, 0.1)])
        padded = replace(PLACE, left=192.0, width=1536.0)
        made = replace(SURVEY, registration=padded, misplaced=(area,))
        left, _, width, _ = areas_of(made)[0]
        self.assertAlmostEqual(left, 0.1 + 0.5 * 0.8)
        self.assertAlmostEqual(width, 0.08)
        self.assertEqual(laid_over(replace(made, registration=replace(padded, turn=90)))[0], 0)


class Pages(WebCase):
    def test_the_page_carries_every_frame(self) -> None:
        attempt = self.attempt()
        page = self.client.get(f"/attempt/{attempt.pk}/look/?frame=7").content.decode()
        found = re.search(r'<script id="moments" type="application/json">(.*?)</script>', page)
        assert found is not None
        rows = json.loads(found[1])
        comparison = comparison_of(attempt)
        assert comparison is not None
        self.assertEqual(len(rows), comparison.survey.export_frames)
        self.assertIn(f'data-chosen="{[row[1] for row in rows].index(7)}"', page)
        self.assertIn("differs most at", page)

    def draw(self, attempt: Attempt) -> str:
        """Do the drawing that a survey left behind."""
        job = Job.objects.latest_of(WORK, attempt.pk)
        assert job is not None
        state: str = run_job.func(job.pk)
        return state

    def test_moments_looked_at_first_are_drawn_ahead(self) -> None:
        attempt = self.attempt()
        self.assertEqual(self.draw(attempt), "done")
        page = self.client.get(f"/attempt/{attempt.pk}/look/").content.decode()
        first = int(re.search(r'data-chosen="(\d+)"', page)[1])
        display = re.search(r'<option value="(\w+)"', page)[1]
        path = f"/attempt/{attempt.pk}/still/export/{first}/{display}.png"
        with mock.patch("shapkeen.web.look.neighbours.run_child", side_effect=AssertionError):
            still = b"".join(self.client.get(path).streaming_content)
        self.assertTrue(still.startswith(b"\x89PNG"))

    def test_a_file_that_is_gone_stops_nothing(self) -> None:
        attempt = self.attempt()
        attempt.reel.path = "gone.mp4"
        attempt.reel.save()
        start_drawing(self, attempt)
        self.assertEqual(self.draw(attempt), "done")


class BesideWhatIsAskedFor(WebCase):
    """Frames beside the one that is looked at are drawn behind its back."""

    def setUp(self) -> None:
        super().setUp()
        self.reel = self.attempt(measured=False).reel
        self.display = "plain"

    def look(self, frame: int) -> bytes:
        with stills.still(self.reel, frame, self.display) as file:
            return file.read()

    def drawn(self) -> set[int]:
        source = self.reel.locate()
        keys = {n: stills._still(source, n, self.display, stills.MOST) for n in range(40)}
        return {number for number, key in keys.items() if stills.is_kept(key)}

    def wait_for(self, frames: set[int]) -> None:
        until = time.monotonic() + 120
        while not frames <= self.drawn() and time.monotonic() < until:
            time.sleep(0.05)
        self.assertLessEqual(frames, self.drawn())

    def test_whoever_steps_on_finds_them_drawn(self) -> None:
        self.display = "gamma22"
        self.assertTrue(self.look(3).startswith(b"\x89PNG"))
        self.wait_for(set(range(10)))
        with mock.patch("shapkeen.web.look.neighbours.run_child", side_effect=AssertionError):
            self.assertNotEqual(self.look(5), self.look(4))

    def test_one_that_comes_soon_is_waited_for_and_another_place_comes_first(self) -> None:
        real, asked = neighbours.run_child, []

        def run(*args: object, **more: object) -> object:
            asked.append(more["frame"])
            return real(*args, **more)

        with (
            mock.patch("shapkeen.web.look.neighbours.run_child", run),
            mock.patch.object(neighbours, "BEFORE", 0),
        ):
            self.look(2)
            self.look(3)
            self.assertEqual(asked, [2])
            self.look(0)
        self.assertEqual(asked, [2, 0])

    def test_what_another_process_draws_is_waited_for_and_not_drawn_twice(self) -> None:
        source, display = self.reel.locate(), "gamma196"
        self.display = display
        picture = b"\x89PNG of another process"
        elsewhere.tell(source, elsewhere.Told("another", display, (7, 8, 9, 10, 11, 12)))

        def draw() -> None:
            time.sleep(0.1)
            key = stills._still(source, 8, display, stills.MOST)
            stills.keep_made(lambda _: {key: picture})

        thread = threading.Thread(target=draw)
        thread.start()
        with mock.patch("shapkeen.web.look.neighbours.run_child", side_effect=AssertionError):
            self.assertEqual(self.look(8), picture)
        thread.join()
        self.assertTrue(self.look(1).startswith(b"\x89PNG\r"))  # far from those: drawn here
        told = elsewhere.told(source)
        self.assertTrue(told is None or told.token != "another")

    def test_a_process_that_ended_is_waited_for_no_longer(self) -> None:
        source, self.display = self.reel.locate(), "steps"
        elsewhere.tell(source, elsewhere.Told("gone", self.display, (4, 5, 6)))
        thread = threading.Timer(0.1, elsewhere.forget, (source, "gone"))
        thread.start()
        self.assertTrue(self.look(5).startswith(b"\x89PNG\r"))
        thread.join()

    def test_whoever_takes_over_ends_what_was_drawn_before(self) -> None:
        source, kept = self.reel.locate(), []
        order = neighbours.Order(
            source, "plain", (0, 1, 2), {}, lambda _: False, lambda number, _: kept.append(number)
        )
        drawing = neighbours._Drawing(order, [0, 1, 2])
        drawing._tell()
        self.assertTrue(drawing._take({"frame": 0, "png": ""}))
        elsewhere.tell(source, elsewhere.Told("another", "plain", (9,)))
        self.assertFalse(drawing._take({"frame": 1, "png": ""}))
        told = elsewhere.told(source)
        assert told is not None
        self.assertEqual((kept, told.token), ([0, 1], "another"))
        elsewhere.forget(source, drawing.token)
        self.assertEqual(elsewhere.told(source), told)

    def test_what_does_not_exist_is_told_and_holds_up_nobody(self) -> None:
        for _ in range(2):
            with self.assertRaises(CoreError) as caught:
                self.look(900)
            self.assertEqual(caught.exception.code, "no-frame")
        self.assertTrue(self.look(1).startswith(b"\x89PNG"))
