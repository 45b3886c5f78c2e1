"""Corrected copies: what one would say, having it written, and taking it in."""

import json
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction

from ....core.cured import Wishes, forecast, has_copies, is_curable, wishes_of
from ....core.declared import Declaration, TraitValue
from ....core.errors import UsageError
from ....core.judged import Comparison
from ....core.judged.model import BENT, LOST
from ....core.measured import WHOLE
from ....core.reported.bench import cause_title
from ...history.services import record
from ...library import services as library
from ...library.models import Attempt, Reel, Title, Viewer
from ...people.rights import account_of
from ...work import services as work
from ...work.boundary import run_child
from ...work.errors import StoppedError
from ...work.kinds import SOON
from ...work.models import Job
from .. import services, works
from ..models import CorrectedCopy
from .words import in_words, said_now, title_of

WORK = "cure"
ROOT = "uploads"
MOST_NAME_BYTES = 180
"""File systems take 255 bytes, and one sign may take four."""
PREVIEW_S = 60


@dataclass(frozen=True, slots=True)
class WishLine:
    """One trait that a copy would say: its name, what both witnesses say now, and the value."""

    title: str
    wrapper: str
    stream: str
    wished: str


@dataclass(frozen=True, slots=True)
class Offer:
    """What a corrected copy of an attempt would put right: the causes' names, and each trait.

    overall: what it will be judged as. stays: what it does not put right, name and why. possible:
    whether copies of this kind of file are written.
    """

    causes: tuple[str, ...]
    lines: tuple[WishLine, ...]
    overall: str
    stays: tuple[tuple[str, str], ...]
    possible: bool


def offer_of(comparison: Comparison) -> Offer | None:
    """Return what a corrected copy would say; None where none is the cure of anything."""
    wishes = wishes_of(comparison)
    if not wishes:
        return None
    causes = [one for one in comparison.survival.causes if is_curable(one)]
    lines = (_line(comparison.export, trait, value) for trait, value in wishes.items())
    then = forecast(comparison, wishes)
    stays = [(v.trait, v.why) for v in then.verdicts if v.verdict in (BENT, LOST)]
    return Offer(
        tuple(cause_title(one) for one in causes),
        tuple(lines),
        then.overall,
        tuple(stays),
        has_copies(comparison.export),
    )


def _line(export: Declaration, name: str, wished: TraitValue | None) -> WishLine:
    return WishLine(title_of(name), *said_now(export, name), in_words(name, wished))


def standing_of(attempt: Attempt, comparison: Comparison) -> dict[str, Any]:
    """Return what a Bench shows of copies: the offer, one being written, and where this is one."""
    made = attempt.reel.copies.exclude(result=None).order_by("-pk").first()
    cured = made is not None and set(wishes_of(comparison)) <= set(made.wishes)
    whole = attempt.judged.stage == WHOLE
    offer = offer_of(comparison) if whole and not cured else None
    return {"offer": offer, **copy_of(attempt.reel)}


def copy_of(reel: Reel) -> dict[str, Any]:
    """Return the last copy of a file: being written, or what it became; and where it is one."""
    asked = reel.copies.order_by("-pk").first()
    job = Job.objects.latest_of(WORK, asked.pk) if asked else None
    made = asked.made if asked else None
    return {
        "copy_job": job if job is not None and asked and asked.result is None else None,
        "copy_made": made,
        "copied_from": getattr(reel, "copied_from", None),
    }


def ask(attempt: Attempt, *, by: Viewer) -> Job:
    """Have what compare would answer with another tag written into a copy; returns the job.

    Raises UsageError where the attempt is not judged, or nothing is only wrongly said.
    """
    comparison = services.comparison_of(attempt)
    wishes = wishes_of(comparison) if comparison else {}
    if not wishes or attempt.judged.stage != WHOLE:
        raise UsageError(
            "No cause of this attempt is cured by a copy. Measure it again, or export it again.",
            code="nothing-to-cure",
            where="cure",
        )
    return ask_for(attempt.reel, wishes, by=by)


def ask_for(reel: Reel, wishes: Wishes, *, by: Viewer) -> Job:
    """Have a copy of a file written; returns the job, which may be under way already.

    Raises UsageError where another copy of the file is being written, which says other things.
    """
    attempt = getattr(reel, "attempt", None)
    title = attempt.delivery.title if attempt else reel.title
    wanted = json.loads(json.dumps(dict(wishes)))  # as it is kept
    with transaction.atomic():
        known = reel.copies.filter(result=None).first()
        asked = known or CorrectedCopy(reel=reel, title=title)
        if known and known.wishes != wanted and Job.objects.unfinished().of(WORK, [known.pk]):
            raise UsageError(
                "A copy of this file that says other things is being written. Ask again when it "
                "is there.",
                code="copy-under-way",
                where=reel.name,
            )
        asked.wishes = wanted
        asked.asked_by = account_of(by)
        asked.save()
        about = attempt or title
        after = {"file": reel.name, "says": wanted}
        record("corrected copy asked for", about.place, by=by, after=after)
    return work.start(WORK, asked.pk)


def preview(reel: Reel, wishes: Wishes) -> dict[str, Any]:
    """Return what a copy would say, as `shapkeen.cure/1`, `can` and `complete`; read in a child.

    Raises CoreError where the file is gone, or cannot be kept whole.
    """
    place = str(reel.locate())
    return run_child(works.preview, time_s=PREVIEW_S, export=place, wishes=dict(wishes))


def find_copy(user: Viewer, copy_id: int) -> Attempt | Title | None:
    """Return what a copy became or is of, an attempt or a title, as far as a user may see it."""
    asked = CorrectedCopy.objects.filter(pk=copy_id).first()
    if asked is None:
        return None
    wanted = asked.made or asked.attempt
    if wanted is None:
        return Title.objects.visible_to(user).filter(pk=asked.title_id).first()
    return Attempt.objects.visible_to(user).with_context().filter(pk=wanted.pk).first()


def run_cure(job: Job) -> None:
    """Write the copy in a child process, and take it in as the next attempt, or as the master.

    Raises CoreError, FaultError and StoppedError. A copy that nobody takes in is taken away.
    """
    copies = CorrectedCopy.objects.select_related("reel__attempt__delivery__title", "title")
    asked = copies.filter(pk=job.subject_id).first()
    if asked is None or asked.result_id:
        raise StoppedError
    folder = Path(settings.CONF.upload_dir)
    folder.mkdir(parents=True, exist_ok=True)
    goal = folder / _name(asked.reel, asked.pk)
    goal.unlink(missing_ok=True)  # of a worker that ended before the copy was taken in
    found = run_child(
        works.cure,
        progress=job.report,
        wanted=job.is_wanted,
        export=str(asked.reel.locate()),
        goal=str(goal),
        wishes=asked.wishes,
    )
    try:
        _take_in(asked, goal, found)
    except BaseException:
        goal.unlink(missing_ok=True)
        raise


def _name(reel: Reel, number: int) -> str:
    """Return the copy's name: no other job's copy has it."""
    path = Path(reel.path)
    stem = path.stem.encode(errors="replace")[:MOST_NAME_BYTES].decode(errors="ignore")
    return f"{stem}-corrected-{number}{path.suffix}"


def _take_in(asked: CorrectedCopy, goal: Path, found: dict[str, Any]) -> None:
    attempt = asked.attempt
    with transaction.atomic():
        if attempt is None:
            if asked.title.master_id != asked.reel_id:
                raise StoppedError  # another file became the master meanwhile
            asked.result = library.replace_master(asked.title, ROOT, goal.name, by=asked.asked_by)
        else:
            delivery = attempt.delivery
            made = library.add_attempt(
                delivery.title, delivery.name, ROOT, goal.name, by=asked.asked_by, priority=SOON
            )
            asked.result = made.reel
        asked.changes, asked.left = found["changes"], found["left"]
        asked.save()
