"""The pages as the server gives them: shelf, title, bench, look."""

from django.contrib.auth import get_user_model

from shapkeen.web.bench.services import comparison_of
from shapkeen.web.library import rows
from shapkeen.web.library.models import Attempt, Delivery, Title
from tests.web.base import WebCase

HTMX = {"HX-Request": "true"}


class Entering(WebCase):
    def test_every_page_wants_a_login(self) -> None:
        attempt = self.attempt(measured=False)
        self.client.logout()
        for path in (
            "/",
            "/title/add/",
            f"/title/{attempt.delivery.title.pk}/",
            attempt.get_absolute_url(),
            f"/attempt/{attempt.pk}/look/",
            f"/attempt/{attempt.pk}/still/master/0/plain.png",
            f"/attempt/{attempt.pk}/trait/transfer/",
            f"/job/{self.job(attempt).pk}/progress/",
        ):
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 302, path)
            self.assertIn("/log-in/", answer["Location"])

    def test_wrong_password_says_so(self) -> None:
        self.client.logout()
        form = "application/x-www-form-urlencoded"
        answer = self.client.post("/log-in/", "username=ada&password=wrong", content_type=form)
        self.assertContains(answer, "do not go together")

    def test_strict_content_security_policy(self) -> None:
        policy = self.client.get("/")["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertIn("script-src 'self'", policy)
        self.assertNotIn("unsafe", policy)

    def test_unknown_addresses_teach_the_way(self) -> None:
        answer = self.client.get("/nowhere/")
        self.assertEqual(answer.status_code, 404)
        self.assertContains(answer, "To the shelf", status_code=404)


class Shelf(WebCase):
    def test_empty_shelf_teaches_the_next_step(self) -> None:
        self.assertContains(self.client.get("/"), "From a master to its first verdict")

    def test_titles_with_their_verdicts(self) -> None:
        self.attempt("healthy.mp4")
        self.attempt("untagged.mp4")
        answer = self.client.get("/")
        self.assertContains(answer, "The Dial")
        self.assertContains(answer, "missing tag")
        self.assertContains(answer, 'data-verdict="lost"')

    def test_title_page_shows_master_and_promise(self) -> None:
        answer = self.client.get(self.title().get_absolute_url())
        self.assertContains(answer, "master.mov")
        self.assertContains(answer, "BT.709")
        self.assertContains(answer, "moov/trak[0]")
        self.assertContains(answer, "No export yet")

    def test_deliveries_are_polled_while_surveys_run(self) -> None:
        attempt = self.attempt(measured=False)
        page = attempt.delivery.title.get_absolute_url()
        self.assertContains(self.client.get(page), "every 2s")
        part = self.client.get(f"{page}?part=deliveries", headers=HTMX)
        self.assertNotContains(part, "<html")


class Bench(WebCase):
    def test_healthy_bench_is_quiet(self) -> None:
        answer = self.client.get(self.attempt().get_absolute_url())
        self.assertNotContains(answer, 'aria-label="Causes"')
        self.assertNotContains(answer, 'data-verdict="lost"')

    def test_broken_bench_names_cause_and_cure(self) -> None:
        attempt = self.attempt("untagged.mp4")
        answer = self.client.get(f"{attempt.get_absolute_url()}?open=transfer")
        self.assertContains(answer, "missing tag")
        self.assertContains(answer, "Evidence for Transfer function")
        self.assertContains(answer, "into a copy")
        self.assertNotContains(answer, "style=")

    def test_a_trait_unfolds_and_folds_by_itself(self) -> None:
        attempt = self.attempt("untagged.mp4")
        path = f"/attempt/{attempt.pk}/trait/matrix/"
        unfolded = self.client.get(path, headers=HTMX)
        self.assertContains(unfolded, "sk-slip")
        self.assertNotContains(self.client.get(f"{path}?folded", headers=HTMX), "sk-slip")
        self.assertEqual(self.client.get(f"/attempt/{attempt.pk}/trait/hue/").status_code, 404)

    def test_every_slip_opens(self) -> None:
        attempt = self.attempt("untagged.mp4")
        comparison = comparison_of(attempt)
        assert comparison is not None
        for verdict in comparison.survival.verdicts:
            answer = self.client.get(f"/attempt/{attempt.pk}/trait/{verdict.trait}/")
            self.assertEqual(answer.status_code, 200, verdict.trait)


class Look(WebCase):
    def test_page_and_stills(self) -> None:
        attempt = self.attempt()
        answer = self.client.get(f"/attempt/{attempt.pk}/look/?frame=7")
        self.assertContains(answer, "<canvas")
        for side in ("master", "export"):
            path = f"/attempt/{attempt.pk}/still/{side}/3/plain.png"
            first = b"".join(self.client.get(path).streaming_content)
            self.assertTrue(first.startswith(b"\x89PNG"))
            again = b"".join(self.client.get(path).streaming_content)
            self.assertEqual(first, again)

    def test_difference_and_probe_of_one_moment(self) -> None:
        attempt = self.attempt()
        base = f"/attempt/{attempt.pk}"
        drawn = self.client.get(f"{base}/difference/3/3.png")
        self.assertTrue(b"".join(drawn.streaming_content).startswith(b"\x89PNG"))
        probed = self.client.get(f"{base}/probe/3/3/?x=0.5&y=0.5&w=0.1&h=0.1")
        self.assertContains(probed, "cd/m²")
        self.assertContains(probed, "mean of")
        for asked in ("?x=2&y=0", "?x=a&y=0", ""):
            self.assertContains(self.client.get(f"{base}/probe/3/3/{asked}"), "Choose a place")
        self.assertContains(self.client.get(f"{base}/probe/3/99999/?x=0&y=0"), "no frame")
        missing = self.client.get(f"{base}/difference/3/99999.png")
        self.assertEqual(missing.status_code, 422)
        self.assertEqual(list((self.folder / "stills").glob(".*")), [])

    def test_impossible_stills(self) -> None:
        attempt = self.attempt()
        base = f"/attempt/{attempt.pk}/still"
        self.assertContains(
            self.client.get(f"{base}/master/99999/plain.png"), "no frame", status_code=422
        )
        for path in ("/other/3/plain.png", "/master/3/blue.png", "/master/-1/plain.png"):
            self.assertEqual(self.client.get(base + path).status_code, 404)

    def test_before_the_survey_both_pages_show_progress(self) -> None:
        attempt = self.attempt(measured=False)
        for path in (attempt.get_absolute_url(), f"/attempt/{attempt.pk}/look/"):
            self.assertContains(self.client.get(path), "Waiting for a worker")


class Models(WebCase):
    def test_attempts_are_numbered_within_their_delivery(self) -> None:
        numbers = [self.attempt(measured=False).number for _ in range(3)]
        self.assertEqual(numbers, [1, 2, 3])
        (held,) = rows.held(Delivery.objects.listed())
        self.assertEqual([one.number for one in held[1]], numbers)

    def test_words_for_people(self) -> None:
        attempt = self.attempt(measured=False)
        self.assertEqual(str(attempt), "The Dial › Harbour › attempt 1")
        self.assertEqual(str(attempt.reel), "healthy.mp4")

    def test_strangers_see_nothing(self) -> None:
        from django.contrib.auth.models import AnonymousUser

        self.attempt(measured=False)
        self.assertFalse(Title.objects.visible_to(AnonymousUser()))
        self.assertFalse(Attempt.objects.visible_to(AnonymousUser()))
        self.assertTrue(Title.objects.visible_to(get_user_model().objects.get()))
