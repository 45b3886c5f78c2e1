"""Comparisons as they were read last: the pages of one export follow each other.

Reading one takes more of the processor than most of a page, and nothing in it ever changes: a
judgement that is made anew has another moment.
"""

from dataclasses import replace
from datetime import datetime
from functools import lru_cache

from ...core.judged import Comparison
from .models import Judgement, SurveySeries

MOST = 64
"""A comparison takes some hundred kB, with the likeness of a long film some MB."""


@lru_cache(MOST)
def comparison(judgement_id: int, made_at: datetime, form: int) -> Comparison:
    """Return all that pages show of a judgement.

    Raises ValueError for another form, Judgement.DoesNotExist where it is no longer that one.
    """
    return Judgement.objects.get(pk=judgement_id, made_at=made_at, form=form).comparison()


@lru_cache(MOST)
def drawn(judgement_id: int, made_at: datetime, form: int) -> Comparison:
    """Return the same with the likeness of every frame as far as drawings want it."""
    found = comparison(judgement_id, made_at, form)
    rows = SurveySeries.objects.defer("rows").filter(survey__judgements=judgement_id)
    series = rows.first()
    if series is None:
        return found
    return replace(found, survey=series.added_to(found.survey))
