"""`manage.py fill_demo`: fill the library with the demo's titles, once; measure nothing."""

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AnonymousUser
from django.core.management.base import BaseCommand, CommandError

from .....core.declared import TraitValue
from .....core.promised import Promise, Promised, promise_to_json
from .....demo.features import FEATURES, Export, Feature
from .....demo.features.versions import recipes_of
from .....demo.shipped import place_footage
from ....library import services
from ....library.models import Delivery, Title
from ....people.rights import make_person
from ....people.roles import EDITOR, ENGINEER, REVIEWER, VIEWER
from ....plan import services as plans
from ....plan import specifications
from ....versions import services as versions

PASSWORD = "orrery-keeper"  # noqa: S105  (the demo's own, printed when it starts)
PEOPLE = (
    ("editor", EDITOR, True),
    ("reviewer", REVIEWER, False),
    ("engineer", ENGINEER, False),
    ("viewer", VIEWER, False),
)
"""Name, role for all titles, and whether it administers: one of each role."""


class Command(BaseCommand):
    help = "Fill the library with the demo's titles, unless that is done."

    def handle(self, *args: Any, **options: Any) -> None:
        folder: Path = settings.CONF.media_roots["footage"]
        place_footage(folder)
        known = set(get_user_model().objects.values_list("username", flat=True))
        for name, role, administrator in PEOPLE:
            if name not in known:
                make_person(name, PASSWORD, role=role, administrator=administrator)
        for feature in FEATURES:
            self._fill(feature)

    def _fill(self, feature: Feature) -> None:
        """Add what is not there yet: a start that was ended half way is completed by the next."""
        title = Title.objects.filter(name=feature.name).first()
        if title is None:
            title = services.create_title(
                feature.name,
                feature.note,
                "footage",
                feature.master,
                by=None,
                reader=services.read_own,
            )
        for export in feature.exports:
            self._add(title, export)
        if not title.recipes.exists():
            for made in recipes_of(title.name):
                versions.keep_recipe(title, json.dumps(made), by=AnonymousUser())

    def _add(self, title: Title, export: Export) -> None:
        if title.deliveries.filter(attempts__reel__path=export.file).exists():
            return
        delivery = services.delivery_named(title, export.delivery)
        if export.promise and not delivery.promise_text:
            services.change_promise(delivery, _promise_text(export.promise), by=None)
        if export.planned and getattr(delivery, "kept_plan", None) is None:
            _keep_plan(title, delivery, *export.planned)
        services.add_attempt(
            title,
            export.delivery,
            "footage",
            export.file,
            by=None,
            reader=services.read_own,
        )


def _keep_plan(title: Title, delivery: Delivery, key: str, fields: Mapping[str, str]) -> None:
    spec = specifications.find(key)
    if spec is None:
        raise CommandError(f"There is no specification {key}.")
    plan = plans.plan_of(plans.subject_of_title(title), spec, fields)
    plans.keep_plan(title, delivery.name, plan, dict(fields), by=AnonymousUser())


def _promise_text(traits: Mapping[str, TraitValue]) -> str:
    wanted = {
        trait: Promised(value=value, origin="demo", explicit=True)
        for trait, value in traits.items()
    }
    return promise_to_json(Promise(traits=wanted))
