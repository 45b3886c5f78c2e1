"""The Bench in pictures: a pair a cause, the film as bands, and what changed since."""

import io
from unittest import mock

import numpy as np
from django.urls import reverse
from PIL import Image

from shapkeen.web.bench.services import drawn_comparison_of
from shapkeen.web.library import services as library
from shapkeen.web.library.models import Attempt
from shapkeen.web.look import ahead, shown
from tests.web.base import WebCase


class Pictured(WebCase):
    def picture(self, address: str) -> np.ndarray:
        answer = self.client.get(address)
        self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "image/png"))
        data = b"".join(answer.streaming_content)
        return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), dtype=float)

    def test_a_cause_that_pictures_show_has_a_pair_of_them(self) -> None:
        attempt = self.attempt("untagged.mp4")
        page = self.client.get(attempt.get_absolute_url())
        comparison = drawn_comparison_of(attempt)
        pairs = list(shown.cause_pairs(comparison))
        self.assertTrue(pairs)
        for side in ("master", "export"):
            address = reverse("look:pair", args=[attempt.pk, pairs[0].trait, side])
            self.assertContains(page, address)
            self.assertEqual(self.picture(address).shape[2], 3)
        self.assertEqual(self.client.get(address.replace(pairs[0].trait, "level")).status_code, 404)

    def test_a_healthy_export_shows_its_film_and_no_pair(self) -> None:
        attempt = self.attempt()
        page = self.client.get(attempt.get_absolute_url())
        self.assertNotContains(page, "/pair/")
        frames = shown.band_frames(drawn_comparison_of(attempt))
        bands = []
        for side, numbers in zip(("master", "export"), frames, strict=True):
            address = reverse("look:band", args=[attempt.pk, side])
            self.assertContains(page, address)
            bands.append(self.picture(address))
            self.assertEqual(bands[-1].shape[:2], (24, len(numbers)))
        self.assertLess(np.abs(bands[0] - bands[1]).mean(), 3)  # of 255: coding alone
        self.assertEqual(shown.marks_of(drawn_comparison_of(attempt)), [])

    def test_long_films_are_thinned_and_shown_once_drawn(self) -> None:
        attempt = self.attempt("untagged.mp4")
        comparison = drawn_comparison_of(attempt)
        with mock.patch.object(shown, "SHORT_FRAMES", 1):
            self.assertNotContains(self.client.get(attempt.get_absolute_url()), "/band/")
            ahead.draw_for_bench(attempt, comparison)
            self.assertContains(self.client.get(attempt.get_absolute_url()), "/band/")

    def test_what_changed_since_the_attempt_before_stands_in_a_line(self) -> None:
        first = self.attempt("untagged.mp4")
        self.assertNotContains(self.client.get(first.get_absolute_url()), "Since")
        second = library.add_attempt(
            first.delivery.title, "Harbour", "footage", "healthy.mp4", by=self.user
        )
        self.run_job(second)
        page = self.client.get(Attempt.objects.get(pk=second.pk).get_absolute_url())
        self.assertContains(page, "Gone: missing tag")
        self.assertContains(page, f"{reverse('bench:differ', args=[second.pk])}?with={first.pk}")
        page = self.client.get(reverse("bench:differ", args=[second.pk]))
        self.assertContains(page, "Gone: missing tag")
        self.assertContains(page, "silent")
