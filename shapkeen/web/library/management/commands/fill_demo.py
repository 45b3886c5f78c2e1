"""`manage.py fill_demo`: render the demo footage and fill the library with it, once."""

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AnonymousUser
from django.core.management.base import BaseCommand, CommandError
from django.db import connection

from .....core.declared import TraitValue
from .....core.promised import Promise, Promised, promise_to_json
from .....demo.features import FEATURES, Feature, files_of
from ....jobs.models import Job
from ....jobs.tasks import survey
from ....plan import services as plans
from ....plan import specifications
from ... import services
from ...models import Attempt, Title

LOGIN, PASSWORD = "editor", "orrery-keeper"


class Command(BaseCommand):
    help = "Render the demo footage and fill the library with it, unless that is done."

    def handle(self, *args: Any, **options: Any) -> None:
        folder = settings.CONF.media_roots["footage"]
        if not all((folder / name).exists() for name in files_of(FEATURES)):
            from .....demo.footage import make_footage

            make_footage(folder, self._say)
        users = get_user_model().objects
        if not users.filter(username=LOGIN).exists():
            users.create_user(LOGIN, password=PASSWORD)
        for feature in FEATURES:
            if not Title.objects.filter(name=feature.name).exists():
                self._fill(feature)
        self._measure()

    def _say(self, text: str) -> None:
        self.stdout.write(f"  {text}")
        self.stdout.flush()

    def _fill(self, feature: Feature) -> None:
        title = services.create_title(
            feature.name, feature.note, "footage", feature.master, by=None
        )
        for export in feature.exports:
            attempt = services.add_attempt(title, export.delivery, "footage", export.file, by=None)
            if export.promise:
                attempt.delivery.promise_text = _promise_text(export.promise)
                attempt.delivery.save(update_fields=["promise_text"])
            if export.planned:
                _keep_plan(title, export.delivery, *export.planned)

    def _measure(self) -> None:
        """Measure now what the queue would measure later, so that the demo opens finished."""
        waiting = list(Attempt.objects.filter(job__in=Job.objects.unfinished()))
        with ThreadPoolExecutor(2) as pool:
            for done, name in enumerate(pool.map(_measure_one, waiting), start=1):
                self._say(f"measured {done} of {len(waiting)}: {name}")


def _keep_plan(title: Title, delivery: str, key: str, fields: Mapping[str, str]) -> None:
    spec = specifications.find(key)
    if spec is None:
        raise CommandError(f"There is no specification {key}.")
    plan = plans.plan_of(plans.subject_of_title(title), spec, fields)
    plans.keep_plan(title, delivery, plan, dict(fields), by=AnonymousUser())


def _promise_text(traits: Mapping[str, TraitValue]) -> str:
    wanted = {
        trait: Promised(value=value, origin="demo", explicit=True)
        for trait, value in traits.items()
    }
    return promise_to_json(Promise(traits=wanted))


def _measure_one(attempt: Attempt) -> str:
    try:
        survey.func(attempt.job.pk)
    finally:
        connection.close()
    return str(attempt)
