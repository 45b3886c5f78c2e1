"""Rehearsals in the pages: every service at a glance, one in full, its pictures, what if."""

import io
import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.urls import reverse
from skimage.io import imread

from shapkeen.core.rehearsed.stand_in import stand_in_named, stand_in_to_json
from shapkeen.web.library import services as library
from shapkeen.web.rehearsal import services, stand_ins
from shapkeen.web.rehearsal.models import Rehearsal, Trial
from shapkeen.web.rehearsal.seen import at_of_wheel, wheel_of
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.web.base import WebCase


class Rehearsing(WebCase):
    def ask(self, key: str = "tidewater-club", **more: str) -> Rehearsal:
        place = reverse("rehearsal:rehearse", args=[self.attempt_.pk])
        answer = self.client.post(place, {"service": key, **more})
        made = Rehearsal.objects.get(attempt=self.attempt_, key=key)
        self.assertRedirects(answer, made.get_absolute_url())
        return made

    def run_it(self, kind: str, subject: int) -> str:
        return run_job.func(Job.objects.latest_of(kind, subject).pk)

    def rehearsed(self, key: str = "tidewater-club") -> Rehearsal:
        made = self.ask(key)
        self.assertEqual(self.run_it(services.REHEARSE, made.pk), "done")
        return Rehearsal.objects.get(pk=made.pk)

    def page(self, address: str, **more: str) -> str:
        answer = self.client.get(address, more)
        self.assertEqual(answer.status_code, 200)
        return answer.content.decode()

    def setUp(self) -> None:
        super().setUp()
        self.attempt_ = self.attempt("healthy.mp4")

    def test_every_service_is_told_at_a_glance_and_nobody_else_sees_it(self) -> None:
        place = reverse("rehearsal:rehearse", args=[self.attempt_.pk])
        page = self.page(place)
        for words in (
            "Tidewater Club",
            "accepted",
            "refused",
            "The picture is too short",
            "See why",
        ):
            self.assertIn(words, page)
        self.assertLess(page.index("Tidewater Club"), page.index("Beacon Broadcast"))
        self.assertIn("There is no such service", self.sent(place, service="nowhere"))
        self.assertIn("Choose a service", self.sent(place, service="../x"))
        self.assertEqual(Client().get(place).status_code, 302)

    def sent(self, place: str, **more: str) -> str:
        return self.client.post(place, more, follow=True).content.decode()

    def test_a_rehearsal_is_told_from_the_door_to_the_screens(self) -> None:
        made = self.ask()
        self.assertIn("Waiting for a worker", self.page(made.get_absolute_url()))
        self.assertEqual(self.run_it(services.REHEARSE, made.pk), "done")
        made.refresh_from_db()
        now = self.page(made.get_absolute_url(), at="0")
        self.assertIn("nothing yet; first after 2 min", now)
        self.assertIn("360 SDR", now)
        later = self.page(made.get_absolute_url(), at="86400")
        self.assertNotIn("nothing yet", later)
        for words in ("bars 937 top, 937 bottom", "samples a degree", "What if it were sent"):
            self.assertIn(words, later)
        htmx = {"HX-Request": "true"}
        part = self.client.get(f"{made.get_absolute_url()}?part&wheel=240", headers=htmx)
        self.assertNotIn(b"<html", part.content)
        self.assertIn(b"48 h", part.content)

    def test_pictures_are_drawn_and_both_sides_play_in_step(self) -> None:
        made = self.rehearsed()
        where = {"rendition": "0", "screen": "phone-upright"}
        for side in ("master", "sent", "rendition"):
            still = reverse("rehearsal:still", args=[made.pk, side, 4])
            answer = self.client.get(still, where)
            picture = imread(io.BytesIO(b"".join(answer.streaming_content)))
            self.assertEqual(picture.shape[:2], (1600, 739), side)
        pair = self.client.get(reverse("rehearsal:pair", args=[made.pk, "sent", 0]), where)
        self.assertEqual(pair["Content-Type"], "video/mp4")
        self.assertIn(b"ftyp", b"".join(pair.streaming_content)[:32])
        for query in ({"rendition": "50"}, {"rendition": "5"}):
            self.assertEqual(self.client.get(still, query).status_code, 404)
        gone = reverse("rehearsal:still", args=[made.pk, "sent", 4000])
        self.assertContains(self.client.get(gone), "no frame 4000", status_code=422)
        look = self.page(reverse("rehearsal:look", args=[made.pk]), rendition="0", screen="hdr")
        self.assertIn('value="hdr" selected', look)

    def test_the_thread_map_gets_its_last_station(self) -> None:
        self.assertNotIn("As received", self.page(self.attempt_.get_absolute_url()))
        made = self.rehearsed()
        page = self.page(self.attempt_.get_absolute_url())
        self.assertIn("As received", page)
        self.assertIn(made.get_absolute_url(), page)
        promise = json.dumps(
            {"schema": "shapkeen.promise/1", "traits": {"transfer": {"value": 16}}}
        )
        library.change_promise(self.attempt_.delivery, promise, by=self.user)
        self.assertNotIn("As received", self.page(self.attempt_.get_absolute_url()))
        page = self.page(made.get_absolute_url())
        self.assertIn("the promise has changed", page)
        self.assertIn("Milky", page)

    def test_a_refused_file_says_why_and_what_to_do(self) -> None:
        made = self.rehearsed("beacon-broadcast")
        page = self.page(made.get_absolute_url())
        self.assertIn("There must be sound.", page)
        self.assertIn("Export with sound", page)
        self.assertNotIn("What viewers see", page)
        look = self.client.get(reverse("rehearsal:look", args=[made.pk]))
        self.assertRedirects(look, made.get_absolute_url())

    def test_what_if_is_priced_tried_once_and_answered_in_a_sentence(self) -> None:
        made = self.rehearsed()
        asked = {
            "sizes": ["own", "double"],
            "rates": "2",
            "sharpened": ["no"],
            "codecs": ["h264"],
            "line": "20",
            "screen": "plain",
        }
        cost = reverse("rehearsal:cost", args=[made.pk])
        self.assertContains(self.client.get(cost, asked), "2 ways, about")
        self.assertContains(self.client.get(cost, asked | {"rates": "many"}), "figures in Mb/s")
        place = reverse("rehearsal:what-if", args=[made.pk])
        self.client.post(place, asked)
        trial = Trial.objects.get()
        self.assertEqual(self.run_it(services.TRY, trial.pk), "done")
        page = self.page(made.get_absolute_url())
        self.assertIn("Enlarging buys", page)
        self.assertIn("Worth it", page)
        picture = self.client.get(reverse("rehearsal:trial-picture", args=[trial.pk, 1]))
        shape = imread(io.BytesIO(b"".join(picture.streaming_content))).shape
        self.assertEqual(shape[:2], (162, 288))
        self.client.post(place, asked)
        self.assertEqual(Trial.objects.count(), 1)
        wrong = self.client.post(place, asked | {"rates": ""}, follow=True)
        self.assertContains(wrong, "This field is required")


class StandIns(WebCase):
    def imported(self, text: str):
        file = SimpleUploadedFile("own.json", text.encode())
        return self.client.post(reverse("rehearsal:stand-ins"), {"file": file}, follow=True)

    def test_a_stand_in_is_taken_away_changed_and_imported(self) -> None:
        sent = self.client.get(reverse("rehearsal:stand-in", args=["mole-signage"]))
        own = json.loads(sent.content)
        self.assertEqual(own["name"], "Mole Signage")
        self.assertContains(self.imported(json.dumps(own)), "is there already", status_code=422)
        own |= {"version": 2, "note": "with a new decoder"}
        self.assertContains(self.imported(json.dumps(own)), "Kept: Mole Signage, version 2.")
        self.assertEqual(stand_ins.find("mole-signage").version, 2)
        self.assertContains(self.client.get(reverse("rehearsal:stand-ins")), "with a new decoder")

    def test_a_fault_is_told_with_its_place(self) -> None:
        own = json.loads(stand_in_to_json(stand_in_named("mole-signage")))
        own["ladder"][0]["stage"] = "never"
        answer = self.imported(json.dumps(own))
        self.assertContains(answer, "ladder[0].stage", status_code=422)
        self.assertEqual(self.client.get("/stand-ins/nothing.json").status_code, 404)

    def test_the_wheel_is_fine_at_first_and_reaches_two_days(self) -> None:
        self.assertEqual((at_of_wheel(0), at_of_wheel(240)), (0, 48 * 3600))
        self.assertLess(at_of_wheel(30), 60)
        for at in (120, 3600, 86_400):
            self.assertAlmostEqual(at_of_wheel(wheel_of(at)) / at, 1, delta=0.05)
