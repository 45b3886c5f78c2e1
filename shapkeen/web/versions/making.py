"""Making a version in a child process, and taking it in as an attempt with its promise."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from ...core.cured.versions import recipe_to_json
from ...core.errors import CoreError
from ...core.promised import Promise, promise_to_json
from ...core.promised.specification import specification_to_json
from ..library import services as library
from ..library.models import Delivery, Title, Viewer
from ..work.boundary import run_child
from ..work.errors import StoppedError
from ..work.kinds import SOON
from ..work.models import Job
from . import services, works
from .models import MadeVersion

WORK = services.WORK
ROOT = "uploads"


def find_version(user: Viewer, version_id: int) -> Title | None:
    """Return the title that a version is of, as far as a user may see it."""
    asked = MadeVersion.objects.filter(pk=version_id).select_related("recipe").first()
    if asked is None:
        return None
    return Title.objects.visible_to(user).filter(pk=asked.recipe.title_id).first()


def run_make(job: Job) -> None:
    """Make the version, and take it in as the next attempt of the delivery of its name.

    Raises CoreError, FaultError and StoppedError. Spans that are finished are kept where it is
    stopped or fails; the next try goes on from there.
    """
    found = MadeVersion.objects.select_related("recipe__title__master")
    asked = found.filter(pk=job.subject_id, attempt=None).first()
    if asked is None:
        raise StoppedError
    title, recipe = asked.recipe.title, asked.part
    specification = services.specification_of(recipe)
    folder = Path(settings.CONF.upload_dir)
    folder.mkdir(parents=True, exist_ok=True)
    goal = folder / asked.file_name
    goal.unlink(missing_ok=True)  # of a worker that ended before the version was taken in
    told = run_child(
        works.make,
        progress=job.report,
        wanted=job.is_wanted,
        master=str(title.master.locate()),
        recipe=recipe_to_json(recipe),
        goal=str(goal),
        specification=specification_to_json(specification) if specification else "",
        workers=settings.CONF.survey_workers,
    )
    try:
        _take_in(asked, goal, told["notes"])
    except BaseException:
        goal.unlink(missing_ok=True)
        raise


@transaction.atomic
def _take_in(asked: MadeVersion, goal: Path, notes: list[str]) -> None:
    title, by = asked.recipe.title, asked.asked_by
    delivery = library.delivery_named(title, asked.part.name)
    promise_so(delivery, asked)
    asked.attempt = library.add_attempt(title, delivery.name, ROOT, goal.name, by=by, priority=SOON)
    asked.notes = notes
    asked.save()


def promise_so(delivery: Delivery, asked: MadeVersion) -> None:
    """Make what the recipe asks for the delivery's promise; what else it promised stays."""
    wanted = services.order_of(delivery.title, asked.part).asked
    try:
        own = delivery.overrides() or Promise(traits={})
    except CoreError:
        own = Promise(traits={})
    if all(name in own.traits and _same(own, wanted, name) for name in wanted.traits):
        return
    promise = Promise(traits={**own.traits, **wanted.traits})
    library.change_promise(delivery, promise_to_json(promise), by=asked.asked_by)


def _same(own: Promise, wanted: Promise, name: str) -> bool:
    one, other = own.traits[name], wanted.traits[name]
    return (one.value, one.at_least, one.one_of) == (other.value, other.at_least, other.one_of)


def forget_attempt(sender: object, attempt: Any, **_: Any) -> None:
    """Forget that an attempt was made by a recipe: it is deleted for good."""
    MadeVersion.objects.filter(attempt=attempt).delete()


def forget_title(sender: object, title: Title, **_: Any) -> None:
    """Forget what was made by a title's recipes: it is deleted for good."""
    MadeVersion.objects.filter(recipe__title=title).delete()
