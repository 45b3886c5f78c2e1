"""What will go wrong: if nothing is done, and with the chosen plan."""

from .caution import HARM, NOTE, REFUSED, Caution
from .if_nothing import IF_NOTHING
from .plan import Plan
from .with_plan import WITH_PLAN

ORDER = (REFUSED, HARM, NOTE)


def cautions_of(plan: Plan) -> tuple[tuple[Caution, ...], tuple[Caution, ...]]:
    """Return what goes wrong if nothing is done, and what remains with this plan; worst first."""
    lists = ([one for rule in rules for one in rule(plan)] for rules in (IF_NOTHING, WITH_PLAN))
    before, after = (tuple(sorted(found, key=lambda one: ORDER.index(one.kind))) for found in lists)
    return before, after
