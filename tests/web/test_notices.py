"""What happened since somebody was last here, and who is told what."""

from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from shapkeen.web.library import services, tidying
from shapkeen.web.library.models import Title
from shapkeen.web.notices.models import Seen
from shapkeen.web.people.models import Grant
from shapkeen.web.people.rights import make_person
from shapkeen.web.signoff import remarks
from tests.web.base import WebCase


class News(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.get(reverse("notices:tell"))  # the first visit: what was before is no news

    def told(self, after: str = "") -> dict:
        return self.client.get(reverse("notices:tell"), {"after": after} if after else {}).json()

    def test_an_ended_survey_is_told_with_its_verdict_once(self) -> None:
        start = self.told()["now"]
        attempt = self.attempt("untagged.mp4")
        told = self.told(start)
        self.assertEqual(told["unseen"], 1)
        (fresh,) = told["fresh"]
        self.assertEqual((fresh["mark"], fresh["address"]), ("lost", attempt.get_absolute_url()))
        self.assertEqual(self.told(told["now"])["fresh"], [])
        page = self.client.get(reverse("notices:news"))
        self.assertContains(page, str(attempt))
        self.assertEqual(len(page.context["fresh"]), 1)
        self.assertEqual(self.told()["unseen"], 0)
        self.assertEqual(len(self.client.get(reverse("notices:news")).context["older"]), 1)

    def test_a_failed_survey_is_told_as_failed(self) -> None:
        attempt = self.attempt(measured=False)
        self.job(attempt).end("failed", {"text": "broken", "code": "x"})
        (notice,) = self.client.get(reverse("notices:news")).context["fresh"]
        self.assertTrue(notice.failed)

    def test_what_others_did_is_told_and_what_oneself_did_is_not(self) -> None:
        other = make_person("bo", "a-long-enough-one")
        attempt = self.attempt(measured=False)
        for by in (self.user, other):
            remarks.say(attempt, "a star is lost", frame=2, place=None, by=by)
        page = self.client.get(reverse("notices:news"))
        self.assertContains(page, "remark: “a star is lost”", count=1)
        self.assertEqual(page.context["fresh"][0].who, "bo")

    def test_nobody_hears_of_titles_that_are_not_theirs(self) -> None:
        attempt = self.attempt()
        mine = services.create_title("Mine", "", "footage", "reels/other.mp4", by=self.user)
        person = make_person("cy", "a-long-enough-one")
        Grant.objects.filter(user=person).update(title=mine)
        Seen.objects.create(user=person, until=attempt.delivery.title.created_at)
        stranger = Client()
        stranger.force_login(person)
        page = stranger.get(reverse("notices:news"))
        self.assertNotContains(page, "The Dial")
        self.assertEqual(Title.objects.visible_to(person).count(), 1)

    def test_many_take_no_more_questions_than_one(self) -> None:
        def asked() -> int:
            with CaptureQueriesContext(connection) as asking:
                self.client.get(reverse("notices:news"))
            return len(asking)

        other = make_person("bo", "a-long-enough-one")
        remarks.say(self.attempt(), "a star is lost", frame=2, place=None, by=other)
        few = asked()
        for _ in range(4):
            remarks.say(self.attempt(), "and another", frame=2, place=None, by=other)
        self.assertEqual(asked(), few)
        self.assertContains(self.client.get(reverse("notices:news")), "and another", count=4)

    def test_what_is_gone_has_no_address(self) -> None:
        other = make_person("bo", "a-long-enough-one")
        attempt = self.attempt()
        remarks.say(attempt, "a star is lost", frame=2, place=None, by=other)
        tidying.put_into_bin(attempt, by=self.user)
        page = self.client.get(reverse("notices:news"))
        self.assertContains(page, "a star is lost")
        self.assertNotContains(page, attempt.get_absolute_url())

    def test_nonsense_for_a_time_is_no_fault(self) -> None:
        for text in ("yesterday", "2026-13-40T00:00", "2026-01-01", "\0"):
            answer = self.client.get(reverse("notices:tell"), {"after": text})
            self.assertEqual(answer.status_code, 200, text)
