"""What stands about a file while it is corrected."""

from collections.abc import Mapping
from dataclasses import dataclass

from ..declared import TraitValue


@dataclass(frozen=True, slots=True)
class Context:
    """The file's kind, the picture's codec, and what both witnesses say without wishes.

    stated: trait → value that a forced neighbour takes where nobody wishes it: a field's own word
    is taken first.
    """

    is_mov: bool
    stated: Mapping[str, TraitValue]
    codec: str = ""
