"""What is made: plans, recipes and versions, corrected copies, rehearsals."""

import json
from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from ....core.cured import wishes_of
from ....core.errors import UsageError
from ....core.promised.specification import specification_to_json
from ...bench import services as bench
from ...bench.cures import copies
from ...library.access import visible_attempt
from ...plan import services as plans
from ...plan import specifications
from ...plan.models import KeptPlan
from ...rehearsal import services as rehearsals
from ...rehearsal import stand_ins
from ...rehearsal.models import Rehearsal
from ...versions import queue
from ...versions import services as versions
from ...versions.models import KeptRecipe, MadeVersion
from ...work.models import Job
from ...work.services import subjects_of
from ..schemas import (
    CopyIn,
    CureOut,
    JobOut,
    PlanIn,
    PlanOut,
    RecipeIn,
    RecipeOut,
    RecipesOut,
    RehearsalIn,
    RehearsalOut,
    RehearsalsOut,
    SpecificationsOut,
    VersionOut,
    VersionsOut,
)
from ..told import (
    job_told,
    plan_told,
    recipe_told,
    rehearsal_told,
    version_told,
)
from .shared import REFUSALS, Limit, Number, Offset, delivery_of, paged, title_of

router = Router(tags=["making"])


@router.get(
    "/specifications", url_name="specifications", response={200: SpecificationsOut, **REFUSALS}
)
def all_specifications(request: HttpRequest) -> Any:
    """List what receivers ask for, as the house keeps it: `shapkeen.specification/1`."""
    found = [json.loads(specification_to_json(one)) for one in specifications.current()]
    return {"count": len(found), "items": found}


@router.get("/deliveries/{delivery_id}/plan", url_name="plan", response={200: PlanOut, **REFUSALS})
def plan(request: HttpRequest, delivery_id: Number) -> Any:
    """Return the plan that a delivery keeps, with its settings sheet."""
    return plan_told(get_object_or_404(KeptPlan, delivery=delivery_of(request, delivery_id)))


@router.put("/deliveries/{delivery_id}/plan", url_name="plan", response={200: PlanOut, **REFUSALS})
def keep_plan(request: HttpRequest, delivery_id: Number, body: PlanIn) -> Any:
    """Keep a plan with a delivery, whose promise it becomes. fields: as the plan gives them."""
    found = delivery_of(request, delivery_id)
    spec = specifications.find(body.specification)
    if spec is None:
        raise UsageError("There is no such specification.", code="gone", where="specification")
    unknown = sorted(set(body.fields) - set(plans.CHOICES))
    if unknown:
        words = f"There is no such choice; there are {', '.join(plans.CHOICES)}."
        raise UsageError(words, code="unknown-choice", where=unknown[0])
    fields: dict[str, Any] = {**body.fields, "shots": body.shots}
    made = plans.plan_of(plans.subject_of_title(found.title), spec, fields)
    plans.keep_plan(found.title, found.name, made, fields, by=request.user)
    return plan_told(KeptPlan.objects.get(delivery=found))


@router.get(
    "/titles/{title_id}/recipes", url_name="recipes", response={200: RecipesOut, **REFUSALS}
)
def recipes(request: HttpRequest, title_id: Number, limit: Limit = 100, offset: Offset = 0) -> Any:
    """List the recipes of a title, each in its newest version, in the order they are made in."""
    found = versions.newest(title_of(request, title_id))
    items = [recipe_told(one) for one in found[offset : offset + limit]]
    return {"count": len(found), "items": items}


@router.post(
    "/titles/{title_id}/recipes", url_name="recipes", response={201: RecipeOut, **REFUSALS}
)
def keep_recipe(request: HttpRequest, title_id: Number, body: RecipeIn) -> Any:
    """Keep a recipe, `shapkeen.recipe/1`, as the next version of its name."""
    text = json.dumps(body.recipe, ensure_ascii=False)
    return 201, recipe_told(
        versions.keep_recipe(title_of(request, title_id), text, by=request.user)
    )


def _recipe(request: HttpRequest, recipe_id: int) -> KeptRecipe:
    visible = KeptRecipe.objects.visible_to(request.user)
    return get_object_or_404(visible.select_related("title__master"), pk=recipe_id)


@router.get("/recipes/{recipe_id}", url_name="recipe", response={200: RecipeOut, **REFUSALS})
def recipe(request: HttpRequest, recipe_id: Number) -> Any:
    """Return one recipe."""
    return recipe_told(_recipe(request, recipe_id))


@router.get(
    "/recipes/{recipe_id}/versions",
    url_name="recipe-versions",
    response={200: VersionsOut, **REFUSALS},
)
def made_versions(
    request: HttpRequest, recipe_id: Number, limit: Limit = 100, offset: Offset = 0
) -> Any:
    """List the versions that a recipe made, or is making."""
    found = MadeVersion.objects.filter(recipe=_recipe(request, recipe_id)).order_by("pk")
    return paged(found, limit, offset, version_told)


@router.post(
    "/recipes/{recipe_id}/versions",
    url_name="recipe-versions",
    response={202: list[VersionOut], **REFUSALS},
)
def make_versions(request: HttpRequest, recipe_id: Number) -> Any:
    """Have what a recipe asks for made; each becomes an attempt, and is measured."""
    found = _recipe(request, recipe_id)
    queue.ask(found.title, [found.pk], by=request.user)
    asked = MadeVersion.objects.filter(recipe=found, attempt=None).order_by("pk")
    return 202, [version_told(one) for one in asked]


@router.get("/attempts/{attempt_id}/cure", url_name="cure", response={200: CureOut, **REFUSALS})
def cure(request: HttpRequest, attempt_id: Number) -> Any:
    """Return what a corrected copy of an attempt would say, and what it would be judged as."""
    found = visible_attempt(request, attempt_id)
    comparison = bench.comparison_of(found)
    if comparison is None:
        raise UsageError("It is not judged yet: see its job.", code="not-judged", where="attempt")
    offer = copies.standing_of(found, comparison)["offer"]
    if offer is None:
        return {"possible": False, "overall": None, "causes": [], "says": [], "stays": []}
    says = [{"trait": name, "value": value} for name, value in wishes_of(comparison).items()]
    stays = [{"trait": trait, "value": why} for trait, why in offer.stays]
    return {
        "possible": offer.possible,
        "overall": offer.overall,
        "causes": list(offer.causes),
        "says": says,
        "stays": stays,
    }


@router.post("/attempts/{attempt_id}/cure", url_name="cure", response={202: JobOut, **REFUSALS})
def write_copy(request: HttpRequest, attempt_id: Number, body: CopyIn) -> Any:
    """Have the corrected copy written; it becomes the delivery's next attempt."""
    return 202, job_told(copies.ask(visible_attempt(request, attempt_id), by=request.user))


@router.get("/stand-ins", url_name="stand-ins", response={200: list[str], **REFUSALS})
def services_known(request: HttpRequest) -> Any:
    """List the keys of the stand-ins that attempts can be rehearsed through."""
    return [one.key for one in stand_ins.current()]


@router.get(
    "/attempts/{attempt_id}/rehearsals",
    url_name="rehearsals",
    response={200: RehearsalsOut, **REFUSALS},
)
def all_rehearsals(
    request: HttpRequest, attempt_id: Number, limit: Limit = 100, offset: Offset = 0
) -> Any:
    """List the rehearsals of an attempt, the newest first."""
    found = visible_attempt(request, attempt_id).rehearsals.order_by("-pk")
    return paged(found, limit, offset, rehearsal_told)


@router.post(
    "/attempts/{attempt_id}/rehearsals",
    url_name="rehearsals",
    response={202: RehearsalOut, **REFUSALS},
)
def rehearse(request: HttpRequest, attempt_id: Number, body: RehearsalIn) -> Any:
    """Have an attempt rehearsed through a stand-in."""
    found = visible_attempt(request, attempt_id)
    made = rehearsals.ask(found, body.stand_in, whole=body.whole, by=request.user)
    return 202, rehearsal_told(made)


@router.get(
    "/rehearsals/{rehearsal_id}", url_name="rehearsal", response={200: RehearsalOut, **REFUSALS}
)
def rehearsal(request: HttpRequest, rehearsal_id: Number) -> Any:
    """Return a rehearsal: found is `shapkeen.rehearsal/1` once it is made."""
    visible = Rehearsal.objects.visible_to(request.user).with_context()
    return rehearsal_told(get_object_or_404(visible, pk=rehearsal_id))


@router.get("/jobs", url_name="jobs", response={200: list[JobOut], **REFUSALS})
def jobs_open(request: HttpRequest, limit: Limit = 100) -> Any:
    """List the work that is under way or waits, as far as it is of what one may see."""
    open_ones = list(Job.objects.unfinished().order_by("-priority", "pk"))
    seen = subjects_of(request.user, open_ones)
    return [job_told(one) for one in open_ones if one.pk in seen][:limit]
