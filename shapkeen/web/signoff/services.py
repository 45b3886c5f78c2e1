"""Waiving, signing and refusing; and whether what was signed still is what is there."""

from dataclasses import dataclass, field
from typing import Any

from django.db import IntegrityError, transaction
from django.utils import timezone

from ...core.errors import UsageError
from ...core.judged.model import BENT, KEPT, LOST, SEVERITY
from ...core.measured import WHOLE
from ...core.reported.bound import bound_digest, bound_object
from ..bench.cures.words import title_of
from ..bench.services import comparison_of
from ..history.services import record
from ..library.models import Attempt
from ..people.guests import Guest
from ..people.rights import Viewer, account_of
from ..work.models import Job
from . import digests
from .digests import Known
from .models import Signature, Waiver


def link_of(user: Viewer) -> int | None:
    """Return the number of the review link that somebody came by; None for people inside."""
    return user.link_id if isinstance(user, Guest) else None


@transaction.atomic
def waive(attempt: Attempt, trait: str, reason: str, *, by: Viewer) -> Waiver:
    """Let a finding pass; raises UsageError where there is none, or it was waived already."""
    comparison = comparison_of(attempt)
    verdicts = comparison.survival.verdicts if comparison else ()
    verdict = next((one for one in verdicts if one.trait == trait), None)
    if verdict is None or verdict.verdict == KEPT:
        raise UsageError(
            "There is no such finding any more. Look at the page again.",
            code="no-finding",
            where=trait,
        )
    try:
        with transaction.atomic():
            made = Waiver.objects.create(
                attempt=attempt,
                trait=trait,
                verdict=verdict.verdict,
                reason=reason,
                by=account_of(by),
                by_name=by.get_username(),
            )
    except IntegrityError as error:
        raise UsageError(
            "Somebody waived this already. Look at the page again.", code="waived", where=trait
        ) from error
    after = {"trait": trait, "verdict": verdict.verdict}
    record("finding waived", attempt.place, by=by, after=after, remark=reason)
    return made


@transaction.atomic
def unwaive(waiver: Waiver, *, by: Viewer) -> None:
    """Take a waiver back; it stays in the history."""
    waiver.ended_at = timezone.now()
    waiver.save(update_fields=["ended_at"])
    before = {"trait": waiver.trait, "verdict": waiver.verdict}
    record("waiver taken back", waiver.attempt.place, by=by, before=before, remark=waiver.reason)


@dataclass(frozen=True, slots=True)
class Finding:
    """One trait that did not come through. waiver: what lets it pass, None where nothing does."""

    trait: str
    title: str
    verdict: str
    why: str
    waiver: Waiver | None

    @property
    def is_worse(self) -> bool:
        """Return whether it is worse now than what was waived."""
        return self.waiver is not None and _grade(self.verdict) > _grade(self.waiver.verdict)

    @property
    def is_open(self) -> bool:
        return self.waiver is None or self.is_worse


def findings_of(attempt: Attempt, comparison: Any) -> list[Finding]:
    """Return all that is bent, lost or unproven, the worst first, with what was waived of it."""
    waivers = {one.trait: one for one in attempt.waivers.filter(ended_at=None)}
    found = [one for one in comparison.survival.verdicts if one.verdict != KEPT]
    found.sort(key=lambda one: -_grade(one.verdict))
    return [
        Finding(one.trait, title_of(one.trait), one.verdict, one.why, waivers.get(one.trait))
        for one in found
    ]


def _grade(verdict: str) -> int:
    """Return how bad a verdict is."""
    return SEVERITY.index(verdict)


@dataclass(frozen=True, slots=True)
class Standing:
    """Where an attempt stands: its files' digests, its last signature, and what moved since.

    work: brings digests that are missing. moved: why it is no longer what was signed. unsure: what
    is being looked into.
    """

    files: tuple[Known, Known]
    work: Job | None
    signature: Signature | None
    moved: list[str] = field(default_factory=list)
    unsure: list[str] = field(default_factory=list)

    @property
    def can_sign(self) -> bool:
        """Return whether both digests are known."""
        return all(one.sha256 for one in self.files)


def standing_of(attempt: Attempt, comparison: Any) -> Standing:
    """Return where an attempt stands; no file is read, only its state on the disk."""
    files = digests.both(attempt)
    signature = attempt.signatures.first()
    work = digests.wanted(attempt, files)
    if signature is None:
        return Standing(files, work, None)
    moved, unsure = _moved_files(signature, files)
    moved += _moved_words(attempt, signature, comparison)
    return Standing(files, work, signature, moved, unsure)


def _moved_files(signature: Signature, files: tuple[Known, Known]) -> tuple[list[str], list[str]]:
    moved, unsure = [], []
    signed = (signature.master_sha256, signature.export_sha256)
    for name, then, now, size in zip(
        ("master", "export"),
        signed,
        files,
        (signature.master_state[0], signature.export_state[0]),
        strict=True,
    ):
        if now.error:
            unsure.append(f"the {name} cannot be looked at: {now.error}")
        elif now.sha256 and now.sha256 != then:
            moved.append(
                f"the {name} is another file: its SHA-256 begins {now.sha256[:12]}, that of "
                f"what was decided on {then[:12]}"
            )
        elif not now.sha256 and now.state and now.state.size_bytes != size:
            moved.append(
                f"the {name} is another file: it has {now.state.size_bytes} bytes, signed were "
                f"{size}"
            )
        elif not now.sha256:
            unsure.append(f"the {name} changed on its disk; its digest is being taken anew")
    return moved, unsure


def _moved_words(attempt: Attempt, signature: Signature, comparison: Any) -> list[str]:
    moved = []
    if signature.promise_digest != attempt.delivery.promise_digest:
        moved.append("the promise is another one")
    now = bound_object(comparison) if comparison else None
    if now is not None and bound_digest(now) != signature.bound_digest:
        moved.append(_what_differs(signature.bound, now))
    waived = _waived(attempt)
    if waived != signature.waived:
        moved.append("waivers were given or taken back since")
    return moved


def _what_differs(then: dict[str, Any], now: dict[str, Any]) -> str:
    """Return which verdicts moved, in words."""
    before = {one["trait"]: one["verdict"] for one in then["verdicts"]}
    after = {one["trait"]: one["verdict"] for one in now["verdicts"]}
    moved = [
        f"{title_of(name).lower()} was {before.get(name, 'not judged')}, is "
        f"{after.get(name, 'not judged')}"
        for name in sorted({*before, *after})
        if before.get(name) != after.get(name)
    ]
    return f"verdicts moved: {'; '.join(moved)}" if moved else "what is promised or found moved"


def _waived(attempt: Attempt) -> list[str]:
    return sorted(attempt.waivers.filter(ended_at=None).values_list("trait", flat=True))


@transaction.atomic
def sign(attempt: Attempt, decision: str, remark: str, *, by: Viewer, seen: str) -> Signature:
    """Sign an attempt, or refuse it, as it stands on the page. seen: what the page showed.

    Raises UsageError where digests are missing, findings are open (to sign), no remark says why
    (to refuse), it was not measured to the end, or it moved since the page was shown.
    """
    comparison = comparison_of(attempt)
    if comparison is None or attempt.judged.stage != WHOLE or attempt.out_of_date:
        raise _refusal("It has no judgement of every frame that is up to date. Measure it first.")
    standing = standing_of(attempt, comparison)
    if unmeasured := unmeasured_of(attempt, standing.files):
        raise _refusal(unmeasured)
    if not standing.can_sign:
        raise _refusal("The digests of its files are not known yet. Wait for them, then sign.")
    bound = bound_object(comparison)
    if seen != seal_of(standing, bound_digest(bound), _waived(attempt)):
        raise _refusal("It moved since this page was shown. Look at it again, then decide.")
    open_ones = [one.title for one in findings_of(attempt, comparison) if _is_in_the_way(one)]
    if decision == Signature.SIGNED and open_ones:
        raise _refusal(
            f"Findings are open: {', '.join(open_ones)}. Waive them with a reason, or refuse."
        )
    if decision == Signature.REFUSED and not remark:
        raise _refusal("Say why it is refused.")
    master, export = standing.files
    made = Signature.objects.create(
        attempt=attempt,
        decision=decision,
        remark=remark,
        by=account_of(by),
        by_name=by.get_username(),
        link_id=link_of(by),
        master_name=master.reel.name,
        master_sha256=master.sha256,
        export_name=export.reel.name,
        export_sha256=export.sha256,
        master_state=list(master.reel.state),
        export_state=list(export.reel.state),
        promise_digest=attempt.delivery.promise_digest,
        bound=bound,
        bound_digest=bound_digest(bound),
        waived=_waived(attempt),
    )
    after = {
        "master_sha256": master.sha256,
        "export_sha256": export.sha256,
        "promise": made.promise_digest,
        "verdicts": made.bound_digest,
        "waived": made.waived,
    }
    record(decision, attempt.place, by=by, after=after, remark=remark)
    return made


def unmeasured_of(attempt: Attempt, files: tuple[Known, Known]) -> str:
    """Return which file has other bytes than those that were measured, in words; empty: none.

    A file can change without its time of change telling so; its digest tells.
    """
    measured = attempt.judged.survey.made_at if attempt.judged else None
    for name, one in zip(("master", "export"), files, strict=True):
        if measured is not None and one.since is not None and one.since > measured:
            return f"The {name} changed on its disk after it was measured. Measure it again."
    return ""


def _is_in_the_way(finding: Finding) -> bool:
    """Return whether a finding must be waived before anybody signs: what nobody could tell not."""
    return finding.is_open and finding.verdict in (BENT, LOST)


def seal_of(standing: Standing, verdicts: str, waived: list[str]) -> str:
    """Return what a page shows, in short: what is signed must be what was seen."""
    files = [one.sha256[:16] for one in standing.files]
    return ".".join([*files, verdicts[:16], *waived])


def seen_of(attempt: Attempt, comparison: Any, standing: Standing) -> str:
    """Return what the sign-off page carries to tell what it showed."""
    return seal_of(standing, bound_digest(bound_object(comparison)), _waived(attempt))


def _refusal(words: str) -> UsageError:
    return UsageError(words, code="cannot-sign", where="sign-off")
