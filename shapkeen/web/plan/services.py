"""Planning for a title: reading what was chosen, keeping a plan, measuring encoding speed."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.db import transaction
from django.http import QueryDict

from ...core.errors import UsageError
from ...core.geometry.framing import ImpossibleError
from ...core.geometry.timecode import frame_of
from ...core.promised import Promise, promise_to_json
from ...core.promised.planning import (
    Plan,
    PlanWarning,
    Shot,
    Subject,
    choices_from,
    make_plan,
    promise_of_plan,
    sheet_of,
    sheet_to_object,
    subject_of,
    warnings_of,
)
from ...core.promised.specification import (
    Specification,
    specification_from_json,
    specification_to_json,
)
from ...core.reported.declared import declaration_from_object
from ..history.services import record
from ..library.access import whole_number
from ..library.models import Delivery, Title, Viewer
from ..library.services import change_promise, delivery_named
from ..people.rights import account_of
from ..work.boundary import run_child
from . import works
from .models import EncodingSpeed, KeptPlan

TRIAL_TIME_S = 120
CHOICES = (
    "size",
    "mode",
    "squeeze",
    "packing",
    "across",
    "down",
    "bit_rate",
    "line_rate",
    "rate",
    "rate_way",
    "coding",
    "sharpen",
    "mark_in",
    "mark_out",
)
SHOT_FIELDS = ("shot_in", "shot_out", "shot_across", "shot_down")


def subject_of_title(title: Title) -> Subject:
    """Return what the title's master is; raises UsageError where nothing can be planned."""
    return subject_of(declaration_from_object(title.master.declaration))


def fields_of(sent: QueryDict) -> dict[str, Any]:
    """Return the choices that a request carries, in the form they are kept in."""
    fields: dict[str, Any] = {name: sent[name] for name in CHOICES if name in sent}
    rows = zip(*(sent.getlist(name) for name in SHOT_FIELDS), strict=False)
    fields["shots"] = [list(row) for row in rows]
    drop = whole_number(str(sent.get("drop", "")))
    if drop is not None:
        del fields["shots"][drop : drop + 1]
    return fields


def plan_of(subject: Subject, spec: Specification, fields: Mapping[str, Any]) -> Plan:
    """Return the plan that fields ask for; raises UsageError saying which cannot be, and why."""
    shots = tuple(_shot(row, subject) for row in fields.get("shots", []))
    choices = choices_from(fields, subject, spec, shots)
    try:
        return make_plan(subject, spec, choices, speeds=EncodingSpeed.objects.all().by_codec())
    except ImpossibleError as error:
        raise UsageError(str(error), code="bad-geometry", where="size") from error


@dataclass(frozen=True, slots=True)
class ShownPlan:
    """A kept plan as the page lists it among others. error: why it cannot be made any more."""

    delivery: Delivery
    plan: Plan | None
    warnings: tuple[PlanWarning, ...] = ()
    error: str = ""


def kept_plans(title: Title) -> list[ShownPlan]:
    """Return every kept plan of a title as it is now, by the delivery's name."""
    subject = subject_of_title(title)
    kept = KeptPlan.objects.filter(delivery__title=title).select_related("delivery")
    return [_shown(subject, one) for one in kept.order_by("delivery__name")]


def _shown(subject: Subject, kept: KeptPlan) -> ShownPlan:
    try:
        made = plan_of(subject, specification_from_json(kept.specification), kept.fields)
    except UsageError as error:
        return ShownPlan(kept.delivery, None, error=error.text)
    return ShownPlan(kept.delivery, made, warnings_of(made)[1])


def with_shot_at(plan: Plan, frame: int) -> Plan:
    """Return the plan with a shot of its own around a frame, up to its neighbours.

    One second long until its ends are set; none where the frame lies in a shot already.
    """
    shots, subject = plan.choices.shots, plan.subject
    if any(shot.holds(frame) for shot in shots):
        return plan
    ends = [shot.first - 1 for shot in shots if shot.first > frame]
    ends += [frame + max(round(subject.rate), 1) - 1, (subject.frames or frame + 1) - 1]
    chosen = plan.choices
    added = Shot(first=frame, last=min(ends), across=chosen.across, down=chosen.down)
    both = tuple(sorted((*shots, added), key=lambda shot: shot.first))
    return replace(plan, choices=replace(chosen, shots=both))


def _shot(row: Sequence[str], subject: Subject) -> Shot:
    try:
        first, last = (frame_of(text, subject.rate) for text in row[:2])
        across, down = (float(text) / 100 for text in row[2:4])
    except ValueError as error:
        raise UsageError(f"A shot's {error}.", code="bad-shots", where="shots") from error
    return Shot(first=first, last=last, across=across, down=down)


@transaction.atomic
def keep_plan(
    title: Title, name: str, plan: Plan, fields: dict[str, Any], *, by: Viewer
) -> Delivery:
    """Keep a plan with a delivery, made if it is new; its promise becomes the delivery's.

    What the delivery promised beyond the plan stays; what an earlier plan decided goes.
    """
    delivery = delivery_named(title, name)
    earlier = KeptPlan.objects.filter(delivery=delivery).first()
    own = _beside_plan(delivery, earlier)
    promise = Promise(traits={**own.traits, **promise_of_plan(plan).traits})
    KeptPlan.objects.update_or_create(
        delivery=delivery,
        defaults={
            "specification": specification_to_json(plan.specification),
            "fields": fields,
            "sheet": sheet_to_object(sheet_of(plan)),
            "made_by": account_of(by),
        },
    )
    change_promise(delivery, promise_to_json(promise), by=by)
    record("plan kept", delivery.place, by=by, after={"specification": plan.specification.name})
    return delivery


def _beside_plan(delivery: Delivery, earlier: KeptPlan | None) -> Promise:
    """Return what a delivery promises by itself, without what its earlier plan decided."""
    own = delivery.overrides() or Promise(traits={})
    if earlier is None:
        return own
    spec = specification_from_json(earlier.specification)
    before = plan_of(subject_of_title(delivery.title), spec, earlier.fields)
    decided = promise_of_plan(before).traits
    return Promise(traits={name: p for name, p in own.traits.items() if name not in decided})


def measure_encoding(title: Title, plan: Plan) -> None:
    """Measure how fast this machine encodes what is planned; raises CoreError where it cannot."""
    source = title.master.locate()
    found = run_child(
        works.speed,
        path=str(source),
        codec=plan.choices.coding.codec,
        raster=plan.layout.frame,
        depth=plan.specification.bit_depth,
        bit_rate=plan.choices.bit_rate,
        time_s=TRIAL_TIME_S,
    )
    EncodingSpeed.record(plan.choices.coding.codec, found["samples_a_second"])
