"""Recipes kept by version, versions made in one go by a worker, each one judged as an attempt."""

import json
from pathlib import Path
from unittest import mock

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse

from shapkeen.core.colour.cube_file import cube_text
from shapkeen.core.colour.lookup import LookUpTable, lattice
from shapkeen.core.errors import UsageError
from shapkeen.web.library.models import Attempt, Delivery, Title
from shapkeen.web.plan import services as plans
from shapkeen.web.plan import specifications
from shapkeen.web.versions import making, queue, services
from shapkeen.web.versions.models import KeptRecipe, MadeVersion
from shapkeen.web.work.errors import StoppedError
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.web.base import WebCase

PLAIN = {
    "schema": "shapkeen.recipe/1",
    "name": "Harbourlight",
    "coding": {"codec": "h264", "preset": "ultrafast"},
    "wrapper": "mp4",
}


def text(**more: object) -> str:
    return json.dumps({**PLAIN, **more})


class Versions(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.title = self.attempt("healthy.mp4").delivery.title
        self.place = reverse("versions:versions", args=[self.title.pk])

    def imported(self, content: str) -> str:
        file = SimpleUploadedFile("recipe.json", content.encode())
        address = reverse("versions:import", args=[self.title.pk])
        return self.client.post(address, {"file": file}, follow=True).content.decode()

    def keep(self, **more: object) -> KeptRecipe:
        return services.keep_recipe(self.title, text(**more), by=self.user)

    def make(self, *recipes: KeptRecipe) -> str:
        address = reverse("versions:make", args=[self.title.pk])
        sent = {"recipe": [kept.pk for kept in recipes]}
        return self.client.post(address, sent, follow=True).content.decode()

    def run_jobs(self) -> None:
        for version in MadeVersion.objects.filter(attempt=None):
            run_job.func(Job.objects.latest_of(services.WORK, version.pk).pk)

    def test_without_a_recipe_the_page_teaches_the_next_step(self) -> None:
        page = self.client.get(self.place).content.decode()
        self.assertIn("No recipe yet", page)
        self.assertIn(reverse("plan:plan", args=[self.title.pk]), page)

    def test_a_recipe_is_imported_shown_and_never_overwritten(self) -> None:
        page = self.imported(text())
        self.assertIn("Kept: Harbourlight, version 1.", page)
        self.assertIn("640×360, SDR, H.264 Main, 8 bits 4:2:0, quality 18, 24 frames/s, MP4", page)
        self.assertIn("Harbourlight.mp4", page)
        kept = KeptRecipe.objects.get()
        changed = text(coding={"codec": "h264", "crf": 21})
        self.client.post(kept.get_absolute_url(), {"text": changed})
        self.assertEqual([one.version for one in KeptRecipe.objects.all()], [1, 2])
        self.assertEqual(KeptRecipe.objects.get(version=1).text, kept.text)
        self.imported(changed)  # the same again is the same
        self.assertEqual(KeptRecipe.objects.count(), 2)
        sent = self.client.get(reverse("versions:export", args=[kept.pk]))
        self.assertEqual(json.loads(sent.content)["name"], "Harbourlight")

    def test_a_wrong_recipe_is_refused_with_its_place_and_nothing_is_lost(self) -> None:
        page = self.imported(text(coding={"codec": "h264", "profile": "Extended"}))
        self.assertIn("coding.profile: The encoder at hand makes no such profile", page)
        self.assertFalse(KeptRecipe.objects.exists())
        kept = self.keep()
        typed = text(coding={"codec": "h264", "crf": 99})
        answer = self.client.post(kept.get_absolute_url(), {"text": typed})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("&quot;crf&quot;: 99", answer.content.decode())

    def test_chosen_ones_are_made_in_one_go_and_judged_by_what_they_ask_for(self) -> None:
        asked = {"promise": {"raster": {"value": [360, 360]}}, "burn_in": {"timecode": True}}
        square = self.keep(name="Square", **asked)
        wide = self.keep()
        self.make(square, wide)
        self.assertEqual(Job.objects.filter(kind=services.WORK).count(), 2)
        self.assertIn("waiting", self.client.get(self.place).content.decode())
        self.run_jobs()
        for version in MadeVersion.objects.all():
            run_job.func(Job.objects.latest_of(Attempt.WORK, version.attempt_id).pk)
            made = Attempt.objects.with_context().get(pk=version.attempt_id)
            self.assertEqual((made.delivery.name, made.number), (version.recipe.name, 1))
            self.assertEqual((made.judgement.overall, made.judgement.broken), ("kept", []))
        promise = Delivery.objects.get(name="Square").overrides()
        self.assertEqual(promise.value("raster"), (360, 360))
        self.assertEqual(len(promise.value("framing")["overlays"]), 1)
        page = self.client.get(self.place).content.decode()
        self.assertEqual(page.count('data-verdict="kept"'), 2)

    def test_where_one_cannot_be_made_none_is_begun(self) -> None:
        kept, other = self.keep(), self.keep(name="Other")
        other.text = text(name="Other", promise={"frame_rate": {"value": [30, 1]}})
        other.save()
        page = self.make(kept, other)
        self.assertIn("Other cannot be made, so nothing was begun.", page)
        self.assertFalse(Job.objects.filter(kind=services.WORK).exists())
        self.assertIn("Choose at least one recipe", self.make())

    def test_stopped_it_goes_on_as_the_same_version(self) -> None:
        kept = self.keep()
        self.make(kept)
        job = Job.objects.get(kind=services.WORK)
        with mock.patch.object(making, "run_child", side_effect=StoppedError):
            run_job.func(job.pk)
        self.assertIn(
            "what is finished of it is kept", self.client.get(self.place).content.decode()
        )
        self.make(kept)
        self.assertEqual(MadeVersion.objects.count(), 1)
        self.run_jobs()
        self.assertIsNotNone(MadeVersion.objects.get().attempt)
        self.make(kept)  # once more is another version, and the first one's file stays
        self.run_jobs()
        paths = [version.attempt.reel.locate() for version in MadeVersion.objects.all()]
        self.assertEqual(len(set(paths)), 2)
        self.assertTrue(all(Path(path).exists() for path in paths))

    def test_clips_become_a_file_and_a_delivery_each(self) -> None:
        clips = [{"name": "start", "in": 0, "out": 4}, {"name": "end", "in": 6, "out": 10}]
        kept = self.keep(name="Cuttings", clips=clips, file="{name} {width}x{height}")
        page = self.make(kept)
        for name in ("Cuttings start 640x360.mp4", "Cuttings end 640x360.mp4"):
            self.assertIn(name, page)
        self.run_jobs()
        self.assertEqual([v.clip for v in MadeVersion.objects.all()], ["start", "end"])
        for version, marks in zip(MadeVersion.objects.all(), ((0, 4), (6, 10)), strict=True):
            promise = version.attempt.delivery.overrides()
            value = promise.value("frames")
            self.assertEqual((value["in"], value["out"]), marks)
            run_job.func(Job.objects.latest_of(Attempt.WORK, version.attempt_id).pk)
            made = Attempt.objects.with_context().get(pk=version.attempt_id)
            self.assertEqual((made.judgement.overall, made.judgement.broken), ("kept", []))

    def moved(self, *recipes: KeptRecipe) -> list[str]:
        address = reverse("versions:order", args=[self.title.pk])
        self.client.post(address, {"place": [kept.pk for kept in recipes]})
        return [kept.name for kept in services.newest(self.title)]

    def test_an_order_holds_for_the_list_and_for_what_waits(self) -> None:
        one, two, three = (self.keep(name=name) for name in ("One", "Two", "Three"))
        self.assertEqual(self.moved(three, one, two), ["Three", "One", "Two"])
        self.make(one, two, three)
        waiting = Job.objects.filter(kind=services.WORK, state=Job.State.WAITING).order_by("pk")

        def names() -> list[str]:
            by = {v.pk: v.recipe.name for v in MadeVersion.objects.all()}
            return [by[job.subject_id] for job in waiting.all()]

        self.assertEqual(names(), ["Three", "One", "Two"])
        self.moved(two, three, one)
        self.assertEqual(names(), ["Two", "Three", "One"])
        newer = self.keep(name="Three", coding={"codec": "h264", "crf": 30})
        self.assertEqual([k.pk for k in services.newest(self.title)][1], newer.pk)

    def test_all_are_paused_and_go_on(self) -> None:
        self.make(self.keep(name="One"), self.keep(name="Two"))
        page = self.client.get(self.place).content.decode()
        self.assertIn("0 of 2 versions, 0 of 20 frames", page)
        self.client.post(reverse("versions:pause", args=[self.title.pk]))
        open_ones = Job.objects.unfinished().filter(kind=services.WORK)
        self.assertFalse(open_ones.exists())
        page = self.client.get(self.place).content.decode()
        self.assertIn("Go on with what was paused", page)
        self.client.post(reverse("versions:go-on", args=[self.title.pk]))
        self.assertEqual(open_ones.count(), 2)
        self.assertEqual(MadeVersion.objects.count(), 2)

    def test_pace_and_what_is_left_of_all(self) -> None:
        self.make(self.keep(name="One"), self.keep(name="Two"))
        job = Job.objects.filter(kind=services.WORK).first()
        Job.objects.filter(pk=job.pk).update(state="running", done=5, total=10, seconds_left=2.5)
        standing = queue.standing_of(queue.rows_of(self.title))
        self.assertEqual((standing.frames_done, standing.frames), (5, 20))
        self.assertEqual(standing.pace.frames_a_second, 2.0)  # 5 frames left in 2.5 s
        self.assertEqual(standing.pace.times_real, 12.0)  # of 24 a second
        self.assertEqual(standing.seconds_left, 7.5)

    def test_a_recipe_is_filled_in_with_a_table_and_clips(self) -> None:
        cube = cube_text(LookUpTable(lattice(2).reshape(2, 2, 2, 3) ** 0.9), title="lift")
        fields = {"name": "Lifted", "coding": "h264/Main", "wrapper": "mp4", "sound": "copy"}
        fields |= {"preset": "ultrafast", "clips": "start 0 to 5, 0:00:00:06-9"}
        address = reverse("versions:new", args=[self.title.pk])
        sent = SimpleUploadedFile("lift.cube", cube.encode())
        self.client.post(address, {**fields, "table": sent})
        recipe = KeptRecipe.objects.get().recipe
        self.assertEqual(recipe.light.table_name, "lift.cube")
        self.assertEqual(
            [(c.name, c.first, c.end) for c in recipe.clips], [("start", 0, 6), ("clip 2", 6, 10)]
        )
        for name, value, words in (
            ("table", SimpleUploadedFile("lift.cube", b"LUT_3D_SIZE 2"), "should hold 8 rows"),
            ("clips", "first to last", "is no clip"),
            ("file", "{when}", "Fields of a file name"),
        ):
            with self.subTest(name):
                answer = self.client.post(address, {**fields, "name": "Other", name: value})
                self.assertContains(answer, words, status_code=422)

    def test_what_nobody_takes_in_is_taken_away(self) -> None:
        self.make(self.keep())
        job = Job.objects.get(kind=services.WORK)
        with mock.patch.object(making, "_take_in", side_effect=UsageError("no", code="x")):
            run_job.func(job.pk)
        job.refresh_from_db()
        self.assertEqual(job.state, Job.State.FAILED)
        goal = self.folder / "uploads" / f"Harbourlight-{job.subject_id}.mp4"
        self.assertFalse(goal.exists())

    def test_a_recipe_is_filled_in_field_by_field(self) -> None:
        address = reverse("versions:new", args=[self.title.pk])
        filled = {
            "name": "Puffin",
            "coding": "h265/Main 10",
            "preset": "fast",
            "bit_rate": "2,5",
            "passes": "on",
            "wrapper": "mov",
            "size": "360 x 360",
            "light": "hlg",
            "first": "0:00:02",
            "last": "8",
            "sound": "none",
        }
        page = self.client.post(address, filled, follow=True).content.decode()
        self.assertIn("360×360, HLG, H.265 Main 10, 10 bits 4:2:0, 2.5 Mb/s in two passes", page)
        self.assertIn("frames 2 to 9", page)
        recipe = KeptRecipe.objects.get().recipe
        self.assertEqual((recipe.first, recipe.end, recipe.coding.preset), (2, 9, "fast"))
        self.assertEqual(recipe.promise.traits["transfer"].converted_from, 1)
        wrong = (
            ({"size": "wide"}, "A size is width"),
            ({"bit_rate": "much"}, "much is no number"),
            ({"first": "soon"}, "is no time"),
            ({"quality": "20"}, "not both"),
            ({"coding": "vp9/0", "bit_rate": "", "passes": ""}, "vp9 is put into mp4, matroska"),
            ({"coding": "h264/High"}, "4:2:0 at 10 bits is wanted"),
        )
        for change, words in wrong:
            answer = self.client.post(address, {**filled, **change})
            with self.subTest(words):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, answer.content.decode())
                self.assertIn('value="Puffin"', answer.content.decode())

    def test_a_plan_becomes_a_recipe_by_one_action(self) -> None:
        spec = specifications.find("foghorn-shorts")
        fields = {"size": "720x900", "across": "30", "rate": "24/1", "mode": "fill"}
        plan = plans.plan_of(plans.subject_of_title(self.title), spec, fields)
        delivery = plans.keep_plan(self.title, "Foghorn", plan, fields, by=self.user)
        self.assertIn("Make a recipe of it", self.client.get(self.place).content.decode())
        self.client.post(reverse("versions:from-plan", args=[delivery.pk]))
        recipe = KeptRecipe.objects.get().recipe
        self.assertEqual((recipe.name, recipe.specification), ("Foghorn", "foghorn-shorts"))
        self.assertEqual(recipe.promise.value("raster"), plan.layout.frame)
        self.assertEqual(
            recipe.promise.value("framing")["crop"],
            plan.layout.crop
            and (plan.layout.crop.left, plan.layout.crop.top, *plan.layout.crop.size),
        )
        other = Delivery.objects.create(title=self.title, name="Unplanned")
        answer = self.client.post(reverse("versions:from-plan", args=[other.pk]))
        self.assertEqual(answer.status_code, 404)

    def test_nothing_is_seen_without_an_account(self) -> None:
        kept = self.keep()
        self.client.logout()
        for place in (self.place, kept.get_absolute_url()):
            self.assertEqual(self.client.get(place).status_code, 302)


class Titles(WebCase):
    def test_the_title_leads_to_its_versions(self) -> None:
        title = self.attempt("healthy.mp4").delivery.title
        page = self.client.get(Title.objects.get(pk=title.pk).get_absolute_url()).content.decode()
        self.assertIn(reverse("versions:versions", args=[title.pk]), page)
