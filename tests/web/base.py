"""Common ground of the web tests: a data folder of their own, a user, and small footage."""

import shutil
import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.conf import settings
from django.test import TestCase, override_settings

from shapkeen.web.library import services
from shapkeen.web.library.models import Attempt, Title
from shapkeen.web.look import neighbours
from shapkeen.web.people.rights import make_person
from shapkeen.web.work.models import Job
from shapkeen.web.work.tasks import run_job
from tests.builders import media
from tests.builders.media import SDR, write
from tests.web.surveys import remember

IN_QUEUE = {"default": {"BACKEND": "django_tasks.backends.dummy.DummyBackend"}}


def data_folder() -> Path:
    """Return a new data folder with a media root of photographs."""
    folder = Path(tempfile.mkdtemp(prefix="shapkeen-web-"))
    footage = folder / "footage"
    (footage / "reels").mkdir(parents=True)
    planes = media.sdr_planes("astronaut")
    sources = {
        "master.mov": media.sdr_master("astronaut"),
        "healthy.mp4": write("web-healthy", planes, SDR),
        "untagged.mp4": write("web-untagged", planes, replace(SDR, colour=None)),
        "reels/other.mp4": media.sdr_master("coffee"),
    }
    for name, source in sources.items():
        shutil.copy(source, footage / name)
    (footage / "notes.mp4").write_text("shot list, not a picture " * 20)
    (footage / "readme.txt").write_text("not shown in listings")
    return folder


def conf_for(folder: Path, **more: Any) -> Any:
    """Return the configuration of an installation in `folder`."""
    roots = {"uploads": folder / "uploads", "footage": folder / "footage"}
    (folder / "uploads").mkdir(exist_ok=True)
    return replace(settings.CONF, data_dir=folder, media_roots=roots, survey_frames=4, **more)


def install(case: Any, tasks: dict[str, Any]) -> Path:
    """Give a test class an installation of its own, taken away with it; returns its folder."""
    folder = data_folder()
    case.addClassCleanup(shutil.rmtree, folder, ignore_errors=True)
    overriding = override_settings(CONF=conf_for(folder), TASKS=tasks)
    overriding.enable()
    case.addClassCleanup(overriding.disable)
    return folder


class WebCase(TestCase):
    """A logged-in client on an installation of its own.

    measures: whether every file is read and every survey measured anew, in place of once for each.
    """

    measures = False

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = install(cls, IN_QUEUE)
        if not cls.measures:
            remember(cls)
        super().setUpClass()

    def setUp(self) -> None:
        self.user = make_person("ada", "a-long-enough-one", administrator=True)
        self.client.force_login(self.user)
        self.addCleanup(neighbours.end_all)  # what nobody asked for is drawn in threads

    def title(self) -> Title:
        return services.create_title("The Dial", "a note", "footage", "master.mov", by=self.user)

    def attempt(self, name: str = "healthy.mp4", *, measured: bool = True) -> Attempt:
        title = Title.objects.first() or self.title()
        attempt = services.add_attempt(title, "Harbour", "footage", name, by=self.user)
        if measured:
            self.run_job(attempt)
            attempt = Attempt.objects.with_context().get(pk=attempt.pk)
        return attempt

    def job(self, attempt: Attempt) -> Job:
        found = Job.objects.latest_of(Attempt.WORK, attempt.pk)
        assert found is not None
        return found

    def run_job(self, attempt: Attempt) -> str:
        """Do what a worker would do with the attempt's latest job."""
        state: str = run_job.func(self.job(attempt).pk)
        return state

    def state(self, attempt: Attempt) -> str:
        return self.job(attempt).state
