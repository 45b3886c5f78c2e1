"""The pages for looking around and through both eyes: what they offer, send and keep."""

import io
import json
import re
import shutil

import av
import cv2
import numpy as np

from shapkeen.web.bench.services import comparison_of
from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt, Delivery
from tests.builders.boxes import flagged
from tests.builders.eyes import eyes_frames, packed, shifted
from tests.builders.media import SDR, write
from tests.builders.spheres import sphere_planes
from tests.web.base import WebCase


def footage(folder, name: str, planes, **layout: str) -> str:
    """Put a flagged file of these planes into the media root and return its name."""
    made = flagged(write(f"immersive-{name}", planes, SDR), **layout)
    shutil.copy(made, folder / "footage" / f"{name}.mp4")
    return f"{name}.mp4"


class ImmersiveCase(WebCase):
    def surveyed(self, title: str, master: str, export: str) -> Attempt:
        made = services.create_title(title, "", "footage", master, by=None)
        attempt = services.add_attempt(made, "Harbour", "footage", export, by=None)
        self.run_job(attempt)
        self.assertEqual(self.job(attempt).state, "done", self.job(attempt).error)
        return Attempt.objects.with_context().get(pk=attempt.pk)


class Around(ImmersiveCase):
    def test_a_spheres_page_and_its_proxy(self) -> None:
        planes = sphere_planes()
        name = footage(self.folder, "sphere", planes, projection="equirectangular")
        attempt = self.surveyed("The Room", name, footage(self.folder, "plain", planes))
        look = self.client.get(f"/attempt/{attempt.pk}/look/")
        self.assertContains(look, f"/attempt/{attempt.pk}/look/around/")
        self.assertNotContains(look, f"/attempt/{attempt.pk}/look/eyes/")
        page = self.client.get(f"/attempt/{attempt.pk}/look/around/")
        self.assertContains(page, "Layout")
        sides = json.loads(re.search(r'id="sides"[^>]*>(.*?)</script>', page.text).group(1))
        self.assertEqual(sides["export"]["left"], [0, 0, 1, 1])
        self.assertEqual((sides["export"]["width"], sides["export"]["ahead"]), (768, [0, 0]))
        answer = self.client.get(f"/attempt/{attempt.pk}/proxy/0/plain.mp4")
        self.assertEqual(answer["Content-Type"], "video/mp4")
        with av.open(io.BytesIO(b"".join(answer.streaming_content))) as proxy:
            frames = [frame.to_ndarray(format="gray") for frame in proxy.decode(video=0)]
            self.assertEqual(float(proxy.streams.video[0].average_rate), 12)
        # every other one of eight frames; the master's picture over the export's, which is the same
        self.assertEqual((len(frames), frames[0].shape), (4, (1280, 1280)))
        apart = np.abs(frames[0][:640].astype(int) - frames[0][640:]).mean()
        self.assertLess(apart, 2)
        self.assertEqual(
            self.client.get(f"/attempt/{attempt.pk}/proxy/99/plain.mp4").status_code, 404
        )
        slip = self.client.get(f"/attempt/{attempt.pk}/?open=sphere_seam")
        self.assertContains(slip, "samples a degree")
        self.assertContains(slip, "sk-figure sphere")

    def test_what_has_no_sphere_and_no_second_eye_offers_neither(self) -> None:
        attempt = self.surveyed("The Dial", "master.mov", "healthy.mp4")
        self.assertNotContains(self.client.get(f"/attempt/{attempt.pk}/look/"), "sk-views")
        self.assertEqual(
            self.client.get(f"/attempt/{attempt.pk}/depth/export/0/mono.png").status_code, 404
        )

    def test_before_the_survey_pages_say_that_it_runs(self) -> None:
        made = services.create_title("The Dial", "", "footage", "master.mov", by=None)
        attempt = services.add_attempt(made, "Harbour", "footage", "healthy.mp4", by=None)
        for view in ("around", "eyes"):
            answer = self.client.get(f"/attempt/{attempt.pk}/look/{view}/")
            self.assertContains(answer, "Waiting for a worker")


class BothEyes(ImmersiveCase):
    def eyes(self) -> Attempt:
        frames = eyes_frames("coffee")
        master = footage(self.folder, "eyes", packed(frames), stereo="left-right")
        slid = packed(shifted(frames, dx=8))
        export = footage(self.folder, "slid", slid, stereo="left-right")
        return self.surveyed("The Gears", master, export)

    def test_the_page_knows_the_eyes_places_and_the_shift(self) -> None:
        attempt = self.eyes()
        page = self.client.get(f"/attempt/{attempt.pk}/look/eyes/")
        sides = json.loads(re.search(r'id="sides"[^>]*>(.*?)</script>', page.text).group(1))
        self.assertEqual(sides["export"]["right"], [0.5, 0, 0.5, 1])
        self.assertAlmostEqual(sides["export"]["shape"], 16 / 9, 3)
        self.assertAlmostEqual(
            float(re.search(r'data-off="([\d.]+)"', page.text).group(1)), 1.25, 1
        )
        self.assertContains(page, "red and cyan anaglyph")
        self.assertContains(page, "sk-figure eyes")
        answer = self.client.get(f"/attempt/{attempt.pk}/depth/export/3/left-right.png")
        data = np.frombuffer(b"".join(answer.streaming_content), np.uint8)
        codes = cv2.imdecode(data, cv2.IMREAD_UNCHANGED)
        self.assertEqual(codes.shape, (360, 640))
        # depth of up to 1.5 % each way, slid by 1.25 %
        percent = (codes[codes > 0].astype(float) - 128) / 10
        self.assertAlmostEqual(float(np.median(percent)), 1.25, delta=0.3)

    def test_exchanged_eyes_are_shown_as_viewers_get_them(self) -> None:
        frames = eyes_frames("coffee")
        master = footage(self.folder, "right", packed(frames), stereo="left-right")
        export = footage(
            self.folder, "wrong", packed(frames, way="right-left"), stereo="left-right"
        )
        attempt = self.surveyed("Exchanged", master, export)
        page = self.client.get(f"/attempt/{attempt.pk}/look/eyes/")
        side = json.loads(re.search(r'id="sides"[^>]*>(.*?)</script>', page.text).group(1))[
            "export"
        ]
        # by its flag, as every player does, though the picture holds them the other way round
        self.assertEqual((side["stereo"], side["said"]), ("left-right", "the file"))
        self.assertEqual((side["left"][0], side["right"][0]), (0, 0.5))
        self.assertEqual(side["exchanged"], "right-left")
        self.assertContains(page, "Exchange eyes")

    def test_another_screen_gives_other_limits_and_a_bad_one_is_refused(self) -> None:
        attempt = self.eyes()
        place = f"/attempt/{attempt.pk}/look/eyes/parallax/"
        # 65 mm on 10 m
        self.assertContains(self.client.get(place, {"width": "10", "distance": "15"}), "+0.65 %")
        for width in ("0", "-3", "wide", "nan", "1e9"):
            answer = self.client.get(place, {"width": width, "distance": "3"})
            self.assertContains(answer, "Give both in metres", status_code=422)

    def test_a_kept_convergence_is_promised_in_every_delivery(self) -> None:
        attempt = self.eyes()
        title = attempt.delivery.title
        Delivery.objects.create(
            title=title,
            name="Archive",
            promise_text='{"schema": "shapkeen.promise/1", "traits": {"range": {"value": "full"}}}',
        )
        place = f"/attempt/{attempt.pk}/look/eyes/keep/"
        answer = self.client.post(place, {"shift": "1.25"}, follow=True)
        self.assertContains(answer, "every delivery of this title now (2)")
        for delivery in title.deliveries.all():
            self.assertEqual(delivery.overrides().value("convergence"), {"shift": 1.25})
        self.assertEqual(title.deliveries.get(name="Archive").overrides().value("range"), "full")
        # Judged at once, by the survey that is kept.
        attempt = Attempt.objects.with_context().get(pk=attempt.pk)
        self.assertEqual(attempt.out_of_date, [])
        causes = [cause.id for cause in comparison_of(attempt).survival.causes]
        self.assertNotIn("convergence-shifted", causes)
        self.client.post(place, {"shift": "50"})
        self.assertEqual(attempt.delivery.overrides().value("convergence"), {"shift": 1.25})
