"""What an act would do to each of many attempts, and doing it."""

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, Final

from ...core.errors import CoreError
from ...core.measured import WHOLE
from ..bench import services as bench
from ..bench.cures import copies
from ..history.services import record
from ..library.models import Attempt, Viewer
from ..people.rights import may
from ..people.roles import ADD, MAKE, SEE
from ..reports import services as reports
from ..work.models import Job

MOST = 500
"""Attempts at once; their judgements are read to tell what would happen."""


@dataclass(frozen=True, slots=True)
class Line:
    """One attempt of many: what would be done, or (refusal) why nothing is."""

    attempt: Attempt
    words: str
    refusal: str = ""


@dataclass(frozen=True, slots=True)
class Group:
    """Attempts to which the same would be done."""

    words: str
    lines: tuple[Line, ...]


@dataclass(frozen=True, slots=True)
class Act:
    """What can be done to many. right: what a person must be allowed to, of each title."""

    title: str
    done: str
    right: str
    look: Callable[[Attempt], Line]
    do: Callable[[Attempt, Viewer, Mapping[str, str]], Any]


def _look_measure(attempt: Attempt) -> Line:
    under_way = Job.objects.unfinished().of(Attempt.WORK, [attempt.pk]).exists()
    if under_way:
        return Line(attempt, "", "It is being measured already.")
    return Line(attempt, "Measured and judged again, as promise and files stand now")


def _measure(attempt: Attempt, by: Viewer, _choices: Mapping[str, str]) -> None:
    bench.measure(attempt)
    record("measuring asked for", attempt.place, by=by)


def _look_cure(attempt: Attempt) -> Line:
    judged = attempt.judged
    if judged is None:
        return Line(attempt, "", "It was not judged yet.")
    if judged.stage != WHOLE:
        return Line(attempt, "", "Only a first look was taken.")
    if attempt.out_of_date:
        return Line(attempt, "", f"Its judgement is out of date: {', '.join(attempt.out_of_date)}.")
    comparison = bench.comparison_of(attempt)
    if comparison is None:
        return Line(attempt, "", "Its findings are of an older form: measure it again.")
    standing = copies.standing_of(attempt, comparison)
    offer = standing["offer"]
    if standing["copy_job"] is not None:
        return Line(attempt, "", "A corrected copy is being written.")
    if offer is None:
        return Line(attempt, "", "Nothing of it is cured by what a copy says.")
    if not offer.possible:
        return Line(attempt, "", "Copies of this kind of file are not written: export it again.")
    says = ", ".join(f"{line.title} {line.wished}" for line in offer.lines)
    return Line(attempt, f"A corrected copy that says {says}")


def _cure(attempt: Attempt, by: Viewer, _choices: Mapping[str, str]) -> None:
    copies.ask(attempt, by=by)


def _look_report(attempt: Attempt) -> Line:
    if attempt.judged is None:
        return Line(attempt, "", "It was not judged yet.")
    return Line(attempt, "A report of its own")


def _report(attempt: Attempt, by: Viewer, choices: Mapping[str, str]) -> None:
    form, _, paper = choices.get("kind", "html").partition("-")
    reports.ask(attempt.delivery.title, attempt, form, paper or "A4", by=by)


ACTS: Final[Mapping[str, Act]] = MappingProxyType(
    {
        "measure": Act("Measure again", "to be measured", ADD, _look_measure, _measure),
        "cure": Act("Write corrected copies", "to be copied", MAKE, _look_cure, _cure),
        "report": Act("Make reports", "to be reported on", SEE, _look_report, _report),
    }
)
"""By name, as addresses and pages have them."""


def looked_at(act: Act, attempts: Iterable[Attempt], *, by: Viewer) -> list[Line]:
    """Return what an act would do to each attempt, for this person."""
    lines = []
    for attempt in attempts:
        if may(by, act.right, attempt.delivery.title_id):
            lines.append(act.look(attempt))
        else:
            lines.append(Line(attempt, "", "Your role does not allow it for this title."))
    return lines


def grouped(lines: Sequence[Line], *, refused: bool = False) -> list[Group]:
    """Return the attempts that something is done to, or nothing (refused), alike ones together.

    The largest group comes first.
    """
    by_words: dict[str, list[Line]] = {}
    for line in lines:
        if bool(line.refusal) == refused:
            by_words.setdefault(line.refusal or line.words, []).append(line)
    groups = [Group(words, tuple(found)) for words, found in by_words.items()]
    return sorted(groups, key=lambda group: -len(group.lines))


def carried_out(
    act: Act, attempts: Iterable[Attempt], choices: Mapping[str, str], *, by: Viewer
) -> tuple[int, list[Line]]:
    """Do an act to each attempt that it can be done to.

    Returns to how many, and those that were refused: now, since it was looked at.
    """
    done, refused = 0, []
    for line in looked_at(act, attempts, by=by):
        if line.refusal:
            refused.append(line)
            continue
        try:
            act.do(line.attempt, by, choices)
            done += 1
        except CoreError as error:
            refused.append(Line(line.attempt, "", error.text))
    return done, refused
