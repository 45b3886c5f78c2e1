"""Keeping recipes, and their order."""

import json
from collections.abc import Sequence

from django.db import IntegrityError, transaction

from ...core.cured.versions import (
    Order,
    Recipe,
    order_version,
    recipe_from_fields,
    recipe_from_json,
    recipe_of_plan,
    recipe_to_json,
)
from ...core.errors import UsageError
from ...core.promised.specification import Specification, specification_from_json
from ...core.reported.declared import declaration_from_object
from ..history.services import record
from ..library.models import Delivery, Title, Viewer
from ..people.rights import account_of
from ..plan import services as plans
from ..plan import specifications
from .models import KeptRecipe
from .words import recipe_words

WORK = "make"


def specification_of(recipe: Recipe) -> Specification | None:
    """Return the specification that a recipe names; raises UsageError where there is none."""
    if not recipe.specification:
        return None
    found = specifications.find(recipe.specification)
    if found is None:
        raise UsageError(
            f"There is no specification {recipe.specification}: import it, or name another.",
            code="bad-recipe",
            where="specification",
        )
    return found


def order_of(title: Title, recipe: Recipe) -> Order:
    """Return a recipe settled for a title's master; raises UsageError where it cannot be made."""
    master = declaration_from_object(title.master.declaration)
    return order_version(master, recipe, specification=specification_of(recipe))


def keep_recipe(title: Title, text: str, *, by: Viewer) -> KeptRecipe:
    """Keep a recipe as the next version of its name; the same text again is the same recipe.

    Raises UsageError where it is none, or cannot be made of the title's master.
    """
    recipe = recipe_from_json(text)
    for part in recipe.files:
        order_of(title, part)
    told = recipe_to_json(recipe)
    last = title.recipes.filter(name=recipe.name).order_by("-version").first()
    if last is not None and last.text == told:
        return last
    try:
        with transaction.atomic():
            kept = KeptRecipe.objects.create(
                title=title,
                name=recipe.name,
                version=last.version + 1 if last else 1,
                place=last.place if last else title.recipes.count(),
                text=told,
                kept_by=account_of(by),
            )
            record("recipe kept", title.place, by=by, after={"recipe": str(kept)})
            return kept
    except IntegrityError as error:
        raise UsageError(
            f"{recipe.name} was changed by someone else this moment. Look at that first.",
            code="recipe-changed",
            where="name",
        ) from error


FIELDS = {
    "coding.codec": "coding",
    "coding.profile": "coding",
    "coding.crf": "quality",
    "coding.bit_rate": "bit_rate",
    "coding.passes": "passes",
    "coding.bit_depth": "coding",
    "promise/raster": "size",
    "traits/raster": "size",
    "promise/transfer": "light",
    "promise/stereo": "stereo",
    "in": "first",
    "out": "last",
    "in, out": "first",
    "burn_in": "timecode",
    "burn_in.text": "burnt_text",
    "sound.codec": "sound",
    "sound.loudness_lufs": "loudness",
    "clips": "clips",
    "light.table": "table",
    "file": "file",
}
"""Place of a fault in a recipe → field of the form."""


def keep_filled(title: Title, fields: dict[str, str], *, by: Viewer) -> KeptRecipe:
    """Keep a recipe that was filled in field by field; raises UsageError, where: the field."""
    master = declaration_from_object(title.master.declaration)
    try:
        subject = plans.subject_of_title(title)
        made = recipe_from_fields(fields, master, subject.rate)
        return keep_recipe(title, json.dumps(made), by=by)
    except UsageError as error:
        error.where = FIELDS.get(error.where, error.where)
        raise


def keep_plan_as_recipe(delivery: Delivery, *, by: Viewer) -> KeptRecipe:
    """Make a recipe of a delivery's kept plan; raises UsageError where it cannot be made here."""
    title, kept = delivery.title, delivery.kept_plan
    spec = specification_from_json(kept.specification)
    plan = plans.plan_of(plans.subject_of_title(title), spec, kept.fields)
    master = declaration_from_object(title.master.declaration)
    made = recipe_of_plan(plan, master, name=delivery.name)
    return keep_recipe(title, recipe_to_json(made), by=by)


def newest(title: Title) -> list[KeptRecipe]:
    """Return the newest version of each recipe of a title, in the order that they are made in."""
    found = {kept.name: kept for kept in title.recipes.order_by("version")}
    return sorted(found.values(), key=lambda kept: (kept.place, kept.name.casefold()))


def put_in_order(title: Title, numbers: Sequence[int]) -> None:
    """Put recipes into an order, by their numbers; those that are not named come behind."""
    known = {kept.pk: kept for kept in newest(title)}
    named = [known.pop(number) for number in numbers if number in known]
    with transaction.atomic():
        for place, kept in enumerate([*named, *known.values()]):
            title.recipes.filter(name=kept.name).update(place=place)


def words_of(title: Title, recipe: Recipe) -> tuple[str, str]:
    """Return what a recipe makes of a title's master, or why it makes nothing: one is empty."""
    try:
        return recipe_words(order_of(title, recipe)), ""
    except UsageError as error:
        return "", error.text
