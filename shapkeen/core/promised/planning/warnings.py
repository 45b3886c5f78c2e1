"""What will go wrong: if nothing is done, and with the chosen plan."""

from .plan import Plan
from .warning import HARM, NOTE, REFUSED, PlanWarning
from .warnings_with_plan import WITH_PLAN
from .warnings_without_plan import WITHOUT_PLAN

ORDER = (REFUSED, HARM, NOTE)


def warnings_of(plan: Plan) -> tuple[tuple[PlanWarning, ...], tuple[PlanWarning, ...]]:
    """Return what goes wrong if nothing is done, and what remains with this plan; worst first."""
    lists = ([one for rule in rules for one in rule(plan)] for rules in (WITHOUT_PLAN, WITH_PLAN))
    before, after = (tuple(sorted(found, key=lambda one: ORDER.index(one.kind))) for found in lists)
    return before, after
