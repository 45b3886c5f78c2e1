"""Sign-off: waivers, signatures and what they bind, review links, remarks, history."""

import csv
import io
import os
import shutil
import subprocess
from datetime import timedelta
from urllib.parse import urlencode

from django.db import DatabaseError, connection, transaction
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from shapkeen.core.errors import UsageError
from shapkeen.web.history.models import Event
from shapkeen.web.history.services import Place, check_seals, record
from shapkeen.web.library.models import Attempt
from shapkeen.web.library.services import change_promise
from shapkeen.web.signoff import digests, links, services
from shapkeen.web.signoff.models import Remark, ReviewLink, Signature
from shapkeen.web.work.kinds import LAST, SOON
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.web.base import WebCase

FORM = "application/x-www-form-urlencoded"
"""As a browser sends a form without files."""


class SignoffCase(WebCase):
    """Attempts on files of their own, with their digests taken."""

    def ready(self, name: str = "healthy.mp4") -> Attempt:
        own = self.folder / "footage" / f"own-{self._testMethodName}-{name}"
        shutil.copy(self.folder / "footage" / name, own)
        self.addCleanup(own.unlink, missing_ok=True)
        attempt = self.attempt(own.name)
        self.digest(attempt)
        return attempt

    def digest(self, attempt: Attempt) -> None:
        digests.wanted(attempt, digests.both(attempt))
        job = Job.objects.latest_of(digests.WORK, attempt.pk)
        assert job is not None
        run_job.func(job.pk)

    def again(self, attempt: Attempt) -> Attempt:
        return Attempt.objects.with_context().get(pk=attempt.pk)

    def stands(self, attempt: Attempt) -> services.Standing:
        found = self.again(attempt)
        return services.standing_of(found, services.comparison_of(found))

    def address(self, attempt: Attempt, name: str = "signoff") -> str:
        return reverse(f"signoff:{name}", args=[attempt.pk])

    def sign(self, attempt: Attempt, decision: str = "signed", remark: str = "", client=None):
        page = (client or self.client).get(self.address(attempt))
        sent = {"decision": decision, "remark": remark, "seen": page.context["seen"]}
        return (client or self.client).post(self.address(attempt, "sign"), urlencode(sent), FORM)


class Signing(SignoffCase):
    def test_a_signature_binds_what_sha256sum_says_of_both_files(self) -> None:
        attempt = self.ready()
        self.assertEqual(self.sign(attempt, remark="as graded").status_code, 302)
        signature = Signature.objects.get()
        files = attempt.delivery.title.master.locate(), attempt.reel.locate()
        told = subprocess.check_output(["sha256sum", *files], text=True).split()
        self.assertEqual([signature.master_sha256, signature.export_sha256], told[::2])
        self.assertEqual(signature.promise_digest, attempt.delivery.promise_digest)
        self.assertEqual((signature.by, signature.remark), (self.user, "as graded"))
        page = self.client.get(self.address(attempt))
        self.assertContains(page, told[0])
        self.assertContains(page, "are what was signed")
        self.assertContains(self.client.get(attempt.get_absolute_url()), "signed</span> by ada")
        self.assertContains(self.client.get("/"), "signed</a>")

    def test_one_byte_is_enough_though_the_time_of_change_is_put_back(self) -> None:
        attempt = self.ready()
        self.sign(attempt)
        path = attempt.reel.locate()
        status, data = path.stat(), bytearray(path.read_bytes())
        data[-1] ^= 1
        with path.open("r+b") as file:
            file.write(data)
        os.utime(path, ns=(status.st_atime_ns, status.st_mtime_ns))
        self.assertIn("changed on its disk", self.stands(attempt).unsure[0])
        self.assertContains(self.client.get(attempt.get_absolute_url()), "Not proven to be")
        self.digest(attempt)
        self.assertIn("the export is another file", self.stands(attempt).moved[0])
        page = self.client.get(attempt.get_absolute_url())
        self.assertContains(page, "No longer what was signed")
        self.assertContains(self.client.get("/"), "no longer what was signed")
        # and nobody signs bytes that were never measured
        self.assertContains(self.sign(attempt), "after it was measured", status_code=422)

    def test_a_file_that_was_only_touched_is_what_was_signed(self) -> None:
        attempt = self.ready()
        self.sign(attempt)
        path = attempt.reel.locate()
        path.chmod(0o640)
        self.assertTrue(self.stands(attempt).unsure)
        self.digest(attempt)
        stands = self.stands(attempt)
        self.assertEqual((stands.moved, stands.unsure), ([], []))

    def test_a_promise_or_a_verdict_that_moved_is_told(self) -> None:
        attempt = self.ready()
        self.sign(attempt)
        text = '{"schema": "shapkeen.promise/1", "traits": {"transfer": {"value": 16}}}'
        change_promise(attempt.delivery, text, by=self.user)
        self.run_job(attempt)
        moved = " ".join(self.stands(attempt).moved)
        self.assertIn("the promise is another one", moved)
        self.assertIn("verdicts moved", moved)
        change_promise(attempt.delivery, "", by=self.user)
        self.assertEqual(self.stands(attempt).moved, [])

    def test_findings_are_waived_with_a_reason_before_anybody_signs(self) -> None:
        attempt = self.ready("untagged.mp4")
        self.assertContains(self.sign(attempt), "Findings are open", status_code=422)
        found = services.findings_of(attempt, services.comparison_of(attempt))
        self.assertContains(
            self.client.post(self.address(attempt, "waive"), {"trait": found[0].trait}),
            "Say why it may pass",
            status_code=422,
        )
        for one in found:
            sent = {"trait": one.trait, "reason": "the club reads no tags"}
            self.client.post(self.address(attempt, "waive"), sent)
        again = self.client.post(self.address(attempt, "waive"), sent)
        self.assertContains(again, "Somebody waived this already", status_code=422)
        self.assertEqual(self.sign(attempt).status_code, 302)
        self.assertContains(self.client.get(attempt.get_absolute_url()), ", waived")
        waiver = attempt.waivers.first()
        self.client.post(reverse("signoff:unwaive", args=[waiver.pk]))
        self.assertIn("waivers were given or taken back", " ".join(self.stands(attempt).moved))
        with self.assertRaises(UsageError):
            services.waive(attempt, "raster", "it is kept", by=self.user)

    def test_a_refusal_says_why_and_counts(self) -> None:
        attempt = self.ready("untagged.mp4")
        self.assertContains(self.sign(attempt, "refused"), "Say why", status_code=422)
        self.sign(attempt, "refused", "the tags are gone")
        self.assertEqual(self.stands(attempt).signature.decision, "refused")
        page = self.client.get(attempt.get_absolute_url())
        self.assertContains(page, "the tags are gone")

    def test_what_is_signed_is_what_was_seen(self) -> None:
        attempt = self.ready()
        seen = self.client.get(self.address(attempt)).context["seen"]
        change_promise(
            attempt.delivery,
            '{"schema": "shapkeen.promise/1", "traits": {"raster": {"value": [16, 16]}}}',
            by=self.user,
        )
        self.run_job(attempt)
        sent = {"decision": "signed", "seen": seen}
        answer = self.client.post(self.address(attempt, "sign"), sent)
        self.assertContains(answer, "moved since this page was shown", status_code=422)
        self.assertFalse(Signature.objects.exists())

    def test_whoever_waits_at_the_page_comes_before_what_nobody_asked_for(self) -> None:
        attempt = self.attempt()
        digests.take_after_measuring(None, attempt)
        early = Job.objects.latest_of(digests.WORK, attempt.pk)
        self.client.get(self.address(attempt))
        early.refresh_from_db()
        now = Job.objects.latest_of(digests.WORK, attempt.pk)
        self.assertEqual((early, early.state, early.priority), (now, "waiting", SOON))
        self.assertGreater(SOON, LAST)
        self.client.get(self.address(attempt))
        self.assertEqual(Job.objects.latest_of(digests.WORK, attempt.pk), now)

    def test_nothing_is_signed_before_digests_are_known(self) -> None:
        attempt = self.attempt()
        sent = {"decision": "signed", "seen": "x"}
        answer = self.client.post(self.address(attempt, "sign"), sent)
        self.assertContains(answer, "digests of its files are not known", status_code=422)
        self.assertContains(self.client.get(self.address(attempt)), "digest not taken yet")


class Links(SignoffCase):
    def link(self, attempt: Attempt, **more: object) -> tuple[ReviewLink, str]:
        values = {"days": 2, "remarks": True, "signs": True, "by": self.user, **more}
        return links.make_link(attempt, "colour", **values)

    def test_a_reviewer_signs_through_a_link(self) -> None:
        self.attempt("untagged.mp4")  # whose causes are nothing for the guest
        attempt, guest = self.ready(), Client()
        sent = {"name": "colour", "days": 3, "remarks": "on", "signs": "on"}
        page = self.client.post(self.address(attempt, "make-link"), sent)
        token = page.context["address"].rstrip("/").rpartition("/")[2]
        self.assertNotIn(token, str(ReviewLink.objects.values()))
        self.assertNotContains(self.client.get(self.address(attempt)), token)
        self.assertRedirects(guest.get(f"/review/{token}/"), attempt.get_absolute_url())
        bench = guest.get(attempt.get_absolute_url())
        for hidden in ("Log out", "/title/", "/file/", "rehearse", "/report/", "People", "Since"):
            self.assertNotContains(bench, hidden)
        self.assertEqual(self.sign(attempt, client=guest).status_code, 302)
        signature = Signature.objects.get()
        self.assertEqual((signature.by, signature.by_name), (None, "colour (by link)"))
        self.assertEqual(signature.link.views, 1)

    def test_an_ended_or_outrun_link_opens_nothing_from_the_next_page_on(self) -> None:
        attempt = self.ready()
        for ends in ("ended_at", "ends_at"):
            link, token = self.link(attempt)
            guest = Client()
            guest.get(f"/review/{token}/")
            self.assertEqual(guest.get(attempt.get_absolute_url()).status_code, 200)
            before = timezone.now() - timedelta(seconds=1)
            ReviewLink.objects.filter(pk=link.pk).update(**{ends: before})
            self.assertEqual(guest.get(attempt.get_absolute_url()).status_code, 302)
            self.assertContains(guest.get(f"/review/{token}/"), "leads nowhere", status_code=404)
        link, _ = self.link(attempt)
        self.client.post(reverse("signoff:end-link", args=[link.pk]))
        self.assertFalse(ReviewLink.objects.get(pk=link.pk).is_open)

    def test_views_are_counted_and_stand_in_the_history(self) -> None:
        attempt = self.ready()
        _, token = self.link(attempt)
        for _ in range(3):
            Client().get(f"/review/{token}/")
        self.assertEqual(ReviewLink.objects.get().views, 3)
        opened = Event.objects.filter(act="review link opened")
        self.assertEqual((opened.count(), opened[0].by_name), (3, "colour (by link)"))


class Remarks(SignoffCase):
    def say(self, attempt: Attempt, **sent: object):
        values = {"text": "too green", "frame": 30, "x": "0.25", "y": "0.5", **sent}
        return self.client.post(
            self.address(attempt, "say"), values, headers={"HX-Request": "true"}
        )

    def test_said_answered_closed_and_exported_with_timecode(self) -> None:
        attempt = self.ready()
        self.assertContains(self.say(attempt), 'data-x="0.25000"')
        self.say(attempt, text="=SUM(A1)", frame=2, x="", y="")
        first = Remark.objects.get(frame=30)
        answer = reverse("signoff:answer", args=[first.pk])
        self.client.post(answer, {"text": "as in the grade"}, headers={"HX-Request": "true"})
        close = reverse("signoff:close", args=[first.pk])
        self.client.post(close, headers={"HX-Request": "true"})
        text = self.client.get(reverse("signoff:remarks-csv", args=[attempt.pk])).content.decode()
        rows = list(csv.DictReader(io.StringIO(text)))
        self.assertEqual([row["frame"] for row in rows], ["2", "30"])
        # 24 frames to the second (SMPTE ST 12-1): frame 30 is six frames into the second one.
        self.assertEqual(rows[1]["timecode"], "00:00:01:06")
        self.assertEqual((rows[1]["x"], rows[1]["closed by"]), ("25.0", "ada"))
        self.assertEqual(rows[1]["answers"], "ada: as in the grade")
        self.assertEqual(rows[0]["text"], "'=SUM(A1)")
        self.assertContains(self.client.get(reverse("look:look", args=[attempt.pk])), "too green")

    def test_nonsense_is_told(self) -> None:
        attempt = self.ready()
        self.assertContains(self.say(attempt, text=""), "Write what you see", status_code=422)
        self.assertEqual(self.say(attempt, x="7").status_code, 422)
        self.assertFalse(Remark.objects.exists())


class History(SignoffCase):
    def test_everything_is_noted_with_who_and_what_before_and_after(self) -> None:
        attempt = self.ready()
        text = '{"schema": "shapkeen.promise/1", "traits": {"raster": {"value": [16, 16]}}}'
        change_promise(attempt.delivery, text, by=self.user)
        self.run_job(attempt)
        acts = list(Event.objects.order_by("pk").values_list("act", "by_name"))
        self.assertEqual(
            acts,
            [
                ("title made", "ada"),
                ("export added", "ada"),
                ("judged", "Shapkeen"),
                ("promise changed", "ada"),
                ("judged", "Shapkeen"),
            ],
        )
        promised = Event.objects.get(act="promise changed")
        self.assertEqual(
            (promised.before, promised.after["traits"]["raster"]["value"]), (None, [16, 16])
        )
        judged = Event.objects.filter(act="judged").first()
        self.assertEqual((judged.before["overall"], judged.after["overall"]), ("kept", "bent"))
        page = self.client.get(reverse("library:history", args=[attempt.delivery.title_id]))
        self.assertContains(page, "promise changed")
        self.assertContains(page, "all 5 of the house fit")

    def test_the_database_refuses_to_change_or_delete_a_row(self) -> None:
        event = record("tried", Place("nothing"), by=self.user)
        for words in ("UPDATE history_event SET by_name = 'eve'", "DELETE FROM history_event"):
            refused = self.assertRaisesRegex(DatabaseError, "never edited")
            with refused, transaction.atomic(), connection.cursor() as cursor:
                cursor.execute(words)
        self.assertEqual(Event.objects.get(pk=event.pk).by_name, "ada")

    def test_a_row_that_was_changed_outside_is_found(self) -> None:
        rows = [record("tried", Place(str(number)), by=None) for number in range(4)]
        self.assertIsNone(check_seals().broken)
        with connection.cursor() as cursor:
            cursor.execute("DROP TRIGGER history_is_never_changed")
            cursor.execute("UPDATE history_event SET remark = 'x' WHERE id = %s", [rows[2].pk])
        self.assertEqual(check_seals().broken, rows[2])
        self.assertContains(self.client.get("/history/"), "changed the history outside")
