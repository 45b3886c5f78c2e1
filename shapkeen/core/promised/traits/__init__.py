"""The traits: one entry says everything about one, and the table is read from top to bottom.

`rule` names the way of judging (judged/rules maps it to its function), so that a trait of
an existing kind is one line here and a test.
"""

from .delivery import CARRIED, TIMES
from .heard import HEARD
from .immersive import ROUND
from .picture import PICTURE
from .trait import (
    CARRIAGE,
    COLOUR,
    DETAIL,
    EYES,
    FAMILIES,
    LIGHT,
    SHAPE,
    SOUND,
    SPHERE,
    TIME,
    Trait,
)

TRAITS = (*PICTURE, *ROUND, *TIMES, *HEARD, *CARRIED)
_BY_NAME = {trait.name: trait for trait in TRAITS}


def trait_by_name(name: str) -> Trait | None:
    """Return the trait of that name, or None."""
    return _BY_NAME.get(name)


__all__ = [
    "CARRIAGE",
    "COLOUR",
    "DETAIL",
    "EYES",
    "FAMILIES",
    "LIGHT",
    "SHAPE",
    "SOUND",
    "SPHERE",
    "TIME",
    "TRAITS",
    "Trait",
    "trait_by_name",
]
