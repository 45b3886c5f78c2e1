"""Undoing what was done last."""

import re

from django.test import Client
from django.urls import reverse

from shapkeen.web.library import services, tidying
from shapkeen.web.library.models import Attempt, Delivery, Title
from shapkeen.web.people.rights import make_person
from tests.web.base import WebCase

KEY = re.compile(r"/undo/([0-9a-f]{32})/")


class Undoing(WebCase):
    def tidy(self, subject: object, **told: str) -> str:
        """Do something of a subject; returns the address that undoes it."""
        kind = type(subject).__name__.lower()
        return self.done(reverse(f"library:tidy-{kind}", args=[subject.pk]), **told)

    def done(self, address: str, **told: str) -> str:
        page = self.client.post(address, told, follow=True).content.decode()
        found = KEY.search(page)
        return found.group(0) if found else ""

    def test_each_deed_can_be_undone(self) -> None:
        attempt = self.attempt(measured=False)
        delivery, title = attempt.delivery, attempt.delivery.title
        other = services.delivery_named(title, "Quay")
        deeds = (
            (title, {"act": "bin"}, "binned_at"),
            (title, {"act": "rename", "name": "Other", "note": "x"}, "name"),
            (delivery, {"act": "rename", "name": "Else"}, "name"),
            (delivery, {"act": "bin"}, "binned_at"),
            (attempt, {"act": "move", "goal": str(other.pk)}, "delivery_id"),
            (attempt, {"act": "bin"}, "binned_at"),
        )
        for subject, told, field in deeds:
            with self.subTest(subject=str(subject), told=told):
                before = getattr(subject, field)
                undo = self.tidy(subject, **told)
                subject.refresh_from_db()
                self.assertNotEqual(getattr(subject, field), before)
                self.assertContains(self.client.post(undo, follow=True), "as it was")
                subject.refresh_from_db()
                self.assertEqual(getattr(subject, field), before)
        title.refresh_from_db()
        self.assertEqual(title.note, "a note")

    def test_a_promise_goes_back_to_what_it_was(self) -> None:
        attempt = self.attempt(measured=False)
        for page, subject in (
            (reverse("library:title-promise", args=[attempt.delivery.title_id]), Title),
            (attempt.delivery.get_absolute_url(), Delivery),
        ):
            first = self.done(page, raster="[1920, 1080]")
            self.assertTrue(first)
            second = self.done(page, raster="[3840, 2160]")
            self.client.post(second)
            self.assertIn("1920", subject.objects.get().promise_text)
            self.client.post(first)
            self.assertEqual(subject.objects.get().promise_text, "")

    def test_what_was_changed_since_stays(self) -> None:
        title = self.title()
        undo = self.tidy(title, act="rename", name="Other", note="")
        tidying.rename(Title.objects.get(), "A third", by=self.user)
        self.assertContains(self.client.post(undo, follow=True), "was changed since")
        self.assertEqual(Title.objects.get().name, "A third")
        self.assertContains(self.client.post(undo, follow=True), "can be undone no more")

    def test_it_is_the_own_session_and_the_right_that_count(self) -> None:
        title = self.title()
        undo = self.tidy(title, act="bin")
        stranger = Client()
        stranger.force_login(make_person("bo", "a-long-enough-one"))
        self.assertContains(stranger.post(undo, follow=True), "can be undone no more")
        self.assertIsNotNone(Title.objects.get().binned_at)

    def test_saving_what_was_there_offers_nothing(self) -> None:
        self.assertEqual(self.tidy(self.title(), act="rename", name="The Dial", note="a note"), "")
        self.assertEqual(Attempt.objects.count(), 0)
