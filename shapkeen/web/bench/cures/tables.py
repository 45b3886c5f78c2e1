"""Look-up tables on the pages: what one would take back, having it, and what it did since."""

from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from ....core.judged import Comparison
from ....core.measured import WHOLE
from ...history.services import record
from ...library.models import Attempt, Viewer
from ...people.rights import account_of
from .. import services
from ..models import Judgement, TakenTable

if TYPE_CHECKING:
    from ....core.cured.tables import DriftTable

MOST_KEPT = 4
"""A lattice of 65 takes 7 MB."""
NOT_USED, PARTLY, TWICE = 0.25, 0.75, 1.3
"""Shares of the drift that are gone: up to here as good as none; not all; more than all."""


@dataclass(frozen=True, slots=True)
class Effect:
    """What became of a drift since a table was taken: the share that is gone, and in words."""

    table: TakenTable
    share: float
    word: str


def standing_of(attempt: Attempt, comparison: Comparison) -> dict[str, Any]:
    """Return what a Bench shows of tables: whether one may help, those taken, and their effect."""
    from ....core.cured.tables import has_drifted

    whole = attempt.judged.stage == WHOLE
    return {
        "has_drifted": whole and has_drifted(comparison),
        "tables": attempt.tables.select_related("taken_by"),
        "table_effect": effect_on(attempt, comparison) if whole else None,
    }


def effect_on(attempt: Attempt, comparison: Comparison) -> Effect | None:
    """Return what the last table from an earlier attempt of the delivery did to this one."""
    from ....core.cured.tables import taken_back

    if attempt.number == 1:
        return None
    earlier = TakenTable.objects.filter(
        attempt__delivery=attempt.delivery, attempt__number__lt=attempt.number
    )
    table = earlier.select_related("attempt__judgement__survey").last()
    if table is None or table.attempt.judged is None:
        return None
    before = services.comparison_of(table.attempt)
    colours = before.survey.colours if before else None
    share = taken_back(colours, comparison.survey.colours)
    return None if share is None else Effect(table, round(share, 2), _word(share))


def _word(share: float) -> str:
    if share >= TWICE:
        return "over-corrected"
    if share >= PARTLY:
        return "taken back"
    return "partly taken back" if share >= NOT_USED else "not taken back"


def tables_of(attempt: Attempt, *, size: int) -> tuple[Any, ...]:
    """Return what a table over the master and one over the export would do; none without a
    verdict by every frame. size: of a lattice."""
    judged: Judgement | None = attempt.judged
    if judged is None or judged.stage != WHOLE:
        return ()
    return _made(judged.pk, judged.made_at, size)


@lru_cache(maxsize=MOST_KEPT)
def _made(judgement_id: int, _made_at: datetime, size: int) -> tuple[Any, ...]:
    """Return the tables of a judgement as it was made then: they take a second each, and are asked
    for once to be seen and once to be saved."""
    from ....core.cured.tables import USES, table_for

    judged = Judgement.objects.select_related("attempt", "survey").get(pk=judgement_id)
    comparison = services.comparison_of(judged.attempt)
    if comparison is None:
        return ()
    return tuple(table_for(comparison, use=use, size=size) for use in USES)


def text_of(attempt: Attempt, use: str, *, size: int) -> str | None:
    """Return a table's text as it is now; None where there is none any more."""
    found = _table(attempt, use, size)
    return _text(attempt, found) if found else None


def taken(attempt: Attempt, use: str, *, size: int, by: Viewer) -> str | None:
    """Return a table's text, and remember that it was taken; None where there is none."""
    found = _table(attempt, use, size)
    if found is None:
        return None
    TakenTable.objects.create(
        attempt=attempt,
        use=use,
        kind=found.table.kind,
        size=found.table.size,
        undoes=list(found.undoes),
        before=found.before.mean,
        after=found.after.mean,
        unit=found.before.unit,
        taken_by=account_of(by),
    )
    record("look-up table taken", attempt.place, by=by, after={"use": use, "size": size})
    return _text(attempt, found)


def _table(attempt: Attempt, use: str, size: int) -> "DriftTable | None":
    from ....core.cured.tables import DriftTable

    found = next((one for one in tables_of(attempt, size=size) if one.use == use), None)
    return found if isinstance(found, DriftTable) else None


def _text(attempt: Attempt, found: "DriftTable") -> str:
    from ....core.reported.table import table_text

    master = attempt.delivery.title.master.name
    return table_text(found, master=master, export=attempt.reel.name)
