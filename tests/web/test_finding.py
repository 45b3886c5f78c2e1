"""Finding on the Shelf, and asking for traits by rows with what that would change."""

import json
from datetime import timedelta

from django.urls import reverse
from django.utils import timezone

from shapkeen.web.history.models import Event
from shapkeen.web.library import asking, finding, tidying
from shapkeen.web.library import services as library
from shapkeen.web.library.finding import ShelfForm
from shapkeen.web.library.models import Attempt, Delivery, Reel, Title
from shapkeen.web.people.rights import make_person
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

    def test_by_cause_delivery_and_day_of_the_newest_attempt(self) -> None:
        lost = self.attempt("untagged.mp4")
        kept = library.add_attempt(
            lost.delivery.title, "Quay", "footage", "healthy.mp4", by=self.user
        )
        self.run_job(kept)
        cause = Attempt.objects.with_context().get(pk=lost.pk).judged.broken[0]
        self.assertEqual(self.found(cause=cause), ["The Dial"])
        self.assertEqual(self.found(cause=cause, delivery="Quay"), [])  # of one and the same
        self.assertEqual(self.found(cause=cause, delivery="Harbour", since="1"), ["The Dial"])
        Reel.objects.update(added_at=timezone.now() - timedelta(days=10))
        self.assertEqual((self.found(since="7"), self.found(since="30")), ([], ["The Dial"]))
        self.assertEqual(self.found(since="yesterday"), ["The Dial"])  # nonsense asks for nothing
        page = self.client.get("/")
        self.assertContains(page, f"<option>{cause}</option>", html=True)
        self.assertContains(page, "<option>Quay</option>", html=True)
        gone = self.client.get("/", {"cause": "mended since"})  # as a kept search may ask for
        self.assertContains(gone, "<option selected>mended since</option>", html=True)

    def test_filters_look_through_all_attempts_once_and_not_for_each_title(self) -> None:
        # with 5 000 exports it is 20 ms or nine seconds
        titles = Title.objects.visible_to(self.user)
        for asked in ({"verdict": "lost"}, {"cause": "tag"}, {"since": "30"}, {"by": "ada"}):
            plan = finding.found(titles, ShelfForm(asked)).explain()
            self.assertEqual(plan.count("CORRELATED"), 1, plan)  # whether an attempt is the newest

    def test_a_title_where_all_is_well_is_folded(self) -> None:
        attempt = self.attempt()
        fold = f'<details data-fold="title-{attempt.delivery.title_id}"'
        self.assertContains(self.client.get("/"), f"{fold}>")
        self.attempt("untagged.mp4")
        self.assertContains(self.client.get("/"), f"{fold} open>")

    def test_what_was_seen_last_is_at_hand_and_a_title_has_its_poster(self) -> None:
        attempt = self.attempt()
        self.client.get(attempt.get_absolute_url())
        page = self.client.get("/")
        self.assertContains(page, "Seen last")
        self.assertContains(page, "The Dial › Harbour 1")
        self.client.cookies["seen"] = "9 9 9:forged"
        self.assertNotContains(self.client.get("/"), "Seen last")
        self.client.get(attempt.get_absolute_url())
        self.client.force_login(make_person("bo", "a-long-enough-one", administrator=True))
        self.assertNotContains(self.client.get("/"), "Seen last")  # somebody else, same browser
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

    def test_a_part_of_the_picture_is_asked_for_by_numbers(self) -> None:
        framing = {"framing.x": "0", "framing.y": "22", "framing.w": "320", "framing.h": "136"}
        self.client.post(self.address, self.form(**framing))
        self.delivery.refresh_from_db()
        told = json.loads(self.delivery.promise_text)["traits"]
        self.assertEqual(told["framing"], {"value": {"crop": [0, 22, 320, 136]}})
        self.assertContains(self.client.get(self.address), "320×136 at 0,22")

    def test_a_title_promises_for_every_delivery(self) -> None:
        title = self.delivery.title
        address = reverse("library:title-promise", args=[title.pk])
        preview = reverse("bench:title-promise-preview", args=[title.pk])
        sent = {"raster": "[1920, 1080]"}
        page = self.client.post(preview, sent)
        self.assertContains(page, "Harbour, attempt 1")
        self.assertContains(page, "raster: kept → lost")
        self.assertRedirects(self.client.post(address, sent), address)
        judged = Attempt.objects.with_context().get(pk=self.made.pk).judgement
        self.assertEqual(judged.overall, "lost")
        self.assertContains(self.client.get(self.address), "title The Dial")
        self.assertContains(self.client.get(title.get_absolute_url()), "1920×1080")
        # A delivery may ask for something else all the same.
        self.client.post(self.address, self.form(**{"raster.w": "320", "raster.h": "180"}))
        delivery = Delivery.objects.get()
        self.assertEqual(delivery.effective_promise().value("raster"), (320, 180))
        title.refresh_from_db()
        self.assertEqual(Event.objects.filter(act="promise changed").count(), 2)
        self.client.post(address, {"raster": ""})
        title.refresh_from_db()
        self.assertEqual(title.promise_text, "")

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
