"""Which cause comes most often from which delivery, by week: where a template is to be mended."""

from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.views.decorators.http import require_GET

from ...core.reported.figures.weeks import weeks_figure
from ..library.models import Attempt

WEEKS, MOST_ROWS = 12, 40


@dataclass(frozen=True, slots=True)
class Often:
    """One cause from one delivery. weeks: attempts of each week that had it, the earliest first."""

    cause: str
    delivery: str
    weeks: tuple[int, ...]
    of: int

    @property
    def count(self) -> int:
        return sum(self.weeks)

    @property
    def drawing(self) -> str:
        """Return its weeks as bars."""
        return weeks_figure(self.weeks, label=f"{self.cause} from {self.delivery}, by week")


def monday_of(day: date) -> date:
    """Return the Monday that a day's week begins with (ISO 8601)."""
    return day - timedelta(days=day.weekday())


def counted(found: Iterable[tuple[str, list[str], date]], until: date) -> list[Often]:
    """Return causes by delivery, the most frequent first. found: delivery, causes, day of each."""
    first = monday_of(until) - timedelta(weeks=WEEKS - 1)
    weeks: dict[tuple[str, str], Counter[int]] = defaultdict(Counter)
    attempts: Counter[str] = Counter()
    for delivery, causes, day in found:
        week = (monday_of(day) - first).days // 7
        if not 0 <= week < WEEKS:
            continue
        attempts[delivery] += 1
        for cause in set(causes):
            weeks[cause, delivery][week] += 1
    rows = [
        Often(cause, delivery, tuple(told[week] for week in range(WEEKS)), attempts[delivery])
        for (cause, delivery), told in weeks.items()
    ]
    return sorted(rows, key=lambda row: (-row.count, row.cause, row.delivery))[:MOST_ROWS]


@require_GET
def often(request: HttpRequest) -> HttpResponse:
    """Show it, of the titles that a person may see."""
    today = timezone.now().date()
    first = monday_of(today) - timedelta(weeks=WEEKS - 1)
    attempts = Attempt.objects.visible_to(request.user).exclude(judgement=None)
    told: Any = attempts.filter(reel__added_at__date__gte=first).values_list(
        "delivery__name", "judgement__broken", "reel__added_at__date"
    )
    context = {"rows": counted(told, today), "first": first, "weeks": WEEKS}
    return render(request, "bench/often.html", context)
