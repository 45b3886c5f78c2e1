"""Finding on the Shelf, and asking for traits by rows with what that would change."""

import json

from django.urls import reverse

from shapkeen.web.library import asking, tidying
from shapkeen.web.library import services as library
from shapkeen.web.library.models import Attempt, Delivery
from tests.web.base import WebCase


class Finding(WebCase):
    def found(self, **asked: str) -> list[str]:
        page = self.client.get("/", {**asked, "part": "titles"}, headers={"HX-Request": "true"})
        return [title.name for title in page.context["page"]]

    def test_every_word_must_stand_in_names_files_or_causes(self) -> None:
        lost = self.attempt("untagged.mp4")
        library.create_title("Elsewhere", "a reel", "footage", "reels/other.mp4", by=self.user)
        self.assertEqual(self.found(q="dial"), ["The Dial"])
        self.assertEqual(self.found(q="HARBOUR untagged"), ["The Dial"])
        self.assertEqual(self.found(q="missing tag"), ["The Dial"])
        self.assertEqual(self.found(q="reel"), ["Elsewhere"])
        self.assertEqual(self.found(q="dial elsewhere"), [])
        self.assertEqual(self.found(verdict="lost"), ["The Dial"])
        self.assertEqual(self.found(verdict="kept"), [])
        second = library.add_attempt(
            lost.delivery.title, "Harbour", "footage", "healthy.mp4", by=self.user
        )
        self.run_job(second)
        self.assertEqual(
            (self.found(verdict="lost"), self.found(verdict="kept")), ([], ["The Dial"])
        )
        tidying.put_into_bin(second, by=self.user)
        self.assertEqual(self.found(verdict="lost"), ["The Dial"])
        self.assertEqual(self.found(sort="newest")[0], "The Dial")
        page = self.client.get("/", {"q": "nothing-like-it"})
        self.assertContains(page, "Nothing is found")

    def test_what_was_seen_last_is_at_hand_and_a_title_has_its_poster(self) -> None:
        attempt = self.attempt()
        self.client.get(attempt.get_absolute_url())
        page = self.client.get("/")
        self.assertContains(page, "Seen last")
        self.assertContains(page, "The Dial › Harbour 1")
        poster = self.client.get(reverse("look:poster", args=[attempt.delivery.title_id]))
        self.assertEqual(poster["Content-Type"], "image/png")
        tidying.put_into_bin(attempt, by=self.user)
        self.assertNotContains(self.client.get("/"), "Seen last")


class Asking(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.made = self.attempt()
        self.delivery = Delivery.objects.select_related("title__master").get()
        self.address = self.delivery.get_absolute_url()

    def form(self, **asked: str) -> dict[str, str]:
        """Return what a browser sends of the page as it stands, with something else chosen."""
        sent = {}
        for _, rows in asking.rows_of(self.delivery):
            for row in rows:
                sent[row.trait.name] = next((v for v, _, chosen in row.options if chosen), "")
        return {**sent, **asked}

    def test_rows_say_what_is_followed_and_ask_for_something_else(self) -> None:
        page = self.client.get(self.address)
        self.assertContains(page, "as it follows: limited")
        self.client.post(self.address, self.form(range=json.dumps("full")))
        self.delivery.refresh_from_db()
        told = json.loads(self.delivery.promise_text)["traits"]
        self.assertEqual(told, {"range": {"value": "full"}})
        self.assertContains(self.client.get(self.address), "data-asked")
        self.client.post(self.address, self.form(range=""))
        self.delivery.refresh_from_db()
        self.assertEqual(self.delivery.promise_text, "")

    def test_numbers_bounds_and_what_rows_cannot_say(self) -> None:
        kept = {
            "schema": "shapkeen.promise/1",
            "traits": {"frame_rate": {"one_of": [[24, 1], [25, 1]]}},
        }
        library.change_promise(self.delivery, json.dumps(kept), by=self.user)
        sent = self.form(
            **{"raster.w": "320", "raster.h": "180"},  # typed, though nothing was chosen
            **{"bit_depth": "8", "bit_depth.bound": "at_least"},
        )
        self.assertEqual(self.client.post(self.address, sent).status_code, 302)
        self.delivery.refresh_from_db()
        told = json.loads(self.delivery.promise_text)["traits"]
        self.assertEqual(told["raster"], {"value": [320, 180]})
        self.assertEqual(told["bit_depth"], {"at_least": 8})
        self.assertEqual(told["frame_rate"], {"one_of": [[24, 1], [25, 1]]})

    def test_nonsense_is_told_and_nothing_is_kept(self) -> None:
        for sent in (
            {"raster": "say", "raster.w": "wide", "raster.h": "180"},
            {"raster": "say", "raster.w": "", "raster.h": "180"},
            {"transfer": '"loud"'},
        ):
            answer = self.client.post(self.address, self.form(**sent))
            self.assertEqual(answer.status_code, 422, sent)
        self.delivery.refresh_from_db()
        self.assertEqual(self.delivery.promise_text, "")

    def test_a_change_shows_what_it_would_do_before_it_is_kept(self) -> None:
        preview = reverse("bench:promise-preview", args=[self.delivery.pk])
        page = self.client.post(preview, self.form(raster="[3840, 2160]"))
        self.assertContains(page, "raster: kept → lost")
        self.assertContains(self.client.post(preview, self.form()), "As it is kept")
        wrong = self.client.post(preview, self.form(**{"raster": "say", "raster.w": "x"}))
        self.assertContains(wrong, "is no number")
        self.delivery.refresh_from_db()
        self.assertEqual(self.delivery.promise_text, "")
        self.assertEqual(Attempt.objects.get().judged.overall, "kept")
