"""Who comes first: whoever waits at a page, then what was brought in, each title in its turn."""

from django.urls import reverse
from django_tasks_db.models import DBTaskResult

from shapkeen.web.bench import services as bench
from shapkeen.web.library import services as library
from shapkeen.web.library.models import Attempt
from shapkeen.web.work.kinds import LATER, MOST_TURNS, SOON
from shapkeen.web.work.models import Job
from tests.web.base import WebCase

DATABASE = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend", "QUEUES": ["default"]}}


class Turns(WebCase):
    def add(self, title, name: str, priority: int | None = None) -> Attempt:
        return library.add_attempt(
            title, name, "footage", "healthy.mp4", by=self.user, priority=priority
        )

    def order(self) -> list[str]:
        """Return the deliveries in the order that workers take them in."""
        jobs = Job.objects.unfinished().order_by("-priority", "pk")
        names = dict(Attempt.objects.values_list("pk", "delivery__name"))
        return [names[job.subject_id] for job in jobs if job.kind == Attempt.WORK]

    def test_titles_have_turns_and_what_came_by_itself_comes_last(self) -> None:
        one = self.title()
        other = library.create_title("Elsewhere", "", "footage", "reels/other.mp4", by=self.user)
        for number in range(3):
            self.add(one, f"watched {number}", LATER)
        for number in range(3):
            self.add(one, f"one {number}")
        for number in range(2):
            self.add(other, f"other {number}")
        asked = Attempt.objects.get(delivery__name="watched 2")
        Job.objects.filter(subject_id=asked.pk).delete()
        bench.measure(asked, priority=SOON)
        turns = ["one 0", "other 0", "one 1", "other 1", "one 2"]
        self.assertEqual(self.order(), ["watched 2", *turns, "watched 0", "watched 1"])

    def test_a_title_of_very_many_stays_before_what_came_by_itself(self) -> None:
        one = self.title()
        with self.settings(
            TASKS={"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}
        ):
            made = [self.add(one, f"one {number}") for number in range(MOST_TURNS + 3)]
            self.add(one, "watched", LATER)
        self.assertEqual(self.order()[-1], "watched")
        self.assertEqual(len(self.order()), len(made) + 1)

    def test_whoever_opens_the_page_of_one_that_waits_brings_it_forward(self) -> None:
        one = self.title()
        with self.settings(TASKS=DATABASE), self.captureOnCommitCallbacks(execute=True):
            self.add(one, "first")
            late = self.add(one, "late", LATER)
        rows = DBTaskResult.objects.order_by("-priority", "enqueued_at")
        self.assertEqual(len(rows), 2)
        self.assertEqual(self.order(), ["first", "late"])
        self.client.get(reverse("bench:bench", args=[late.pk]))
        self.assertEqual(self.order(), ["late", "first"])
        first = DBTaskResult.objects.order_by("-priority", "enqueued_at")[0]
        self.assertEqual(first.priority, SOON)
        self.assertEqual(first.args_kwargs["args"], [self.job(late).pk])
