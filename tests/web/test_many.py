"""One act for many exports: shown first, done by each one's rights, refused with a reason."""

from django.urls import reverse

from shapkeen.web.bench.cures.copies import WORK as COPY
from shapkeen.web.history.models import Event
from shapkeen.web.library import services as library
from shapkeen.web.library.models import Attempt
from shapkeen.web.people.models import Grant
from shapkeen.web.people.roles import VIEWER
from shapkeen.web.reports.models import KeptReport
from shapkeen.web.work.models import Job
from tests.web.base import WebCase


class Many(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.lost = self.attempt("untagged.mp4")
        title = self.lost.delivery.title
        more = [("Quay", "untagged.mp4"), ("Mole", "healthy.mp4")]
        self.quay, self.mole = (
            library.add_attempt(title, name, "footage", file, by=self.user) for name, file in more
        )
        for one in (self.quay, self.mole):
            self.run_job(one)
        self.new = library.add_attempt(title, "Buoy", "footage", "healthy.mp4", by=self.user)

    def ask(self, act: str, *attempts: Attempt, **more: str):
        chosen = {"act": act, "attempt": [one.pk for one in attempts], **more}
        return self.client.post(reverse("many:ask"), chosen)

    def do(self, act: str, *attempts: Attempt, **more: str):
        chosen = {"act": act, "attempt": [one.pk for one in attempts], **more}
        return self.client.post(reverse("many:do"), chosen, follow=True)

    def test_alike_cures_stand_together_and_the_rest_says_why_not(self) -> None:
        page = self.ask("cure", self.lost, self.quay, self.mole, self.new)
        groups = page.context["groups"]
        self.assertEqual([len(group.lines) for group in groups], [2])
        self.assertIn("A corrected copy that says", groups[0].words)
        refusals = {
            line.attempt.delivery.name: group.words
            for group in page.context["refused"]
            for line in group.lines
        }
        self.assertEqual(set(refusals), {"Mole", "Buoy"})
        self.assertIn("not judged", refusals["Buoy"])
        done = self.do("cure", self.lost, self.quay, self.mole)
        self.assertContains(done, "2 to be copied")
        self.assertContains(done, "Nothing of it is cured")
        self.assertEqual(Job.objects.filter(kind=COPY).count(), 2)
        again = self.ask("cure", self.lost)
        self.assertContains(again, "A corrected copy is being written")

    def test_measured_again_all_that_a_search_finds(self) -> None:
        page = self.ask("measure", which="all", query="verdict=lost")
        self.assertEqual(sum(len(group.lines) for group in page.context["groups"]), 2)
        before = Job.objects.filter(kind=Attempt.WORK).count()
        self.do("measure", self.lost, self.quay)
        self.assertEqual(Job.objects.filter(kind=Attempt.WORK).count(), before + 2)
        self.assertEqual(Event.objects.filter(act="measuring asked for").count(), 2)
        self.assertContains(self.ask("measure", self.lost), "being measured already")

    def test_reports_and_archives(self) -> None:
        self.do("report", self.lost, self.quay, kind="pdf-Letter")
        self.assertEqual(
            set(KeptReport.objects.values_list("form", "paper", "attempt")),
            {("pdf", "Letter", self.lost.pk), ("pdf", "Letter", self.quay.pk)},
        )
        nonsense = self.client.post(
            reverse("many:do"), {"act": "report", "attempt": self.lost.pk, "kind": "exe"}
        )
        self.assertEqual(nonsense.status_code, 404)
        page = self.client.get(self.ask("archive", self.lost, self.quay).url)
        self.assertEqual([one.name for one in page.context["chosen"]], ["The Dial"])
        self.assertTrue(page.context["goes"])

    def test_each_by_ones_rights_of_its_title(self) -> None:
        Grant.objects.filter(user=self.user).delete()
        self.user.is_superuser = False
        self.user.save()
        Grant.objects.create(user=self.user, role=VIEWER)
        page = self.ask("measure", self.lost)
        self.assertContains(page, "Your role does not allow it")
        before = Job.objects.count()
        self.do("measure", self.lost)
        self.assertEqual(Job.objects.count(), before)
        Grant.objects.filter(user=self.user).delete()
        self.assertRedirects(self.ask("measure", self.lost), "/")  # it is not seen at all

    def test_nothing_chosen_and_no_such_act(self) -> None:
        self.assertRedirects(self.ask("measure"), "/")
        self.assertEqual(self.ask("explode", self.lost).status_code, 404)
