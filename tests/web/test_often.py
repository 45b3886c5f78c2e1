"""What breaks most often, by delivery and week."""

from datetime import date, timedelta
from unittest import TestCase

from django.utils import timezone

from shapkeen.web.bench.often import WEEKS, counted, monday_of
from shapkeen.web.library.models import Reel
from tests.web.base import WebCase


class Counted(TestCase):
    def test_weeks_begin_on_monday(self) -> None:
        # ISO 8601: 2026-W49 begins on Monday 30 November.
        for day, monday in ((30, date(2026, 11, 30)), (29, date(2026, 11, 23))):
            self.assertEqual(monday_of(date(2026, 11, day)), monday)
        self.assertEqual(date(2026, 11, 30).isocalendar().week, 49)

    def test_each_attempt_counts_once_in_its_week_and_the_most_come_first(self) -> None:
        until = date(2026, 11, 30)
        found = [
            ("Beacon", ["gamut converted", "gamut converted"], until),
            ("Beacon", ["gamut converted"], until - timedelta(days=1)),
            ("Beacon", ["tone"], until - timedelta(weeks=3)),
            ("Beacon", [], until - timedelta(weeks=3)),
            ("Quay", ["gamut converted"], until - timedelta(weeks=WEEKS)),  # too long ago
        ]
        first, second = counted(found, until)
        self.assertEqual((first.cause, first.count, first.of), ("gamut converted", 2, 4))
        self.assertEqual(first.weeks[-2:], (1, 1))
        self.assertEqual((second.cause, second.weeks[-4]), ("tone", 1))


class Page(WebCase):
    def test_it_names_the_delivery_and_leads_to_its_titles(self) -> None:
        self.attempt("untagged.mp4")
        page = self.client.get("/often/")
        self.assertContains(page, "missing")
        self.assertContains(page, "1 of 1")
        self.assertContains(page, "delivery=Harbour")
        Reel.objects.update(added_at=timezone.now() - timedelta(weeks=WEEKS + 1))
        self.assertContains(self.client.get("/often/"), "Nothing broke in that time")
