"""What a corrected copy has to say so that a comparison's wrong tags are put right."""

from collections.abc import Iterator, Mapping

from ..declared import TraitValue
from ..judged import Cause, Comparison
from .wishes import MOST_LIGHT, SAYABLE

REMEDIES = frozenset({"retag", "move-index"})
"""Remedies that a copy is; others need a new export."""
LIGHT_CAUSES = frozenset({"light-level-missing", "light-level-understated"})
FOLLOWING = frozenset({"display_size", "raster", "shown_shape"})
"""Traits that follow the pixel aspect by themselves."""
SQUARE = (1, 1)


def is_curable(cause: Cause) -> bool:
    """Return whether a corrected copy is the cure of a cause."""
    return cause.remedy in REMEDIES


def wishes_of(found: Comparison) -> dict[str, TraitValue | None]:
    """Return what all causes together ask a copy to say; nothing where none is only a wrong tag."""
    wishes: dict[str, TraitValue | None] = {}
    for cause in found.survival.causes:
        if is_curable(cause):
            wishes |= dict(_wishes(found, cause))
    transfer = wishes.get("transfer")
    said = found.export.stream.get("alternative_transfer")
    promised = found.promise.value("alternative_transfer")
    if transfer is not None and said is not None and said.value not in (transfer, promised):
        wishes.setdefault("alternative_transfer", promised)  # it would contradict the cured one
    return wishes


def _wishes(found: Comparison, cause: Cause) -> Iterator[tuple[str, TraitValue | None]]:
    if cause.id == "index-last":
        yield "index_first", True
    elif cause.id == "squeeze-doubled":
        yield "pixel_aspect", SQUARE
    elif cause.id == "squeeze-unflagged":
        yield "pixel_aspect", found.promise.value("pixel_aspect")
    elif cause.id in LIGHT_CAUSES:
        yield "content_light", _light(found, cause)
    else:
        for trait in cause.traits:
            if trait in SAYABLE and trait not in FOLLOWING:
                yield trait, _promised(found, trait)


def _promised(found: Comparison, trait: str) -> TraitValue | None:
    value = found.promise.value(trait)
    return None if value in (0, False) and trait in ("rotation", "mirror") else value


def _light(found: Comparison, cause: Cause) -> TraitValue | None:
    """Return the light level that the master declares, else the measured one."""
    promised = found.promise.value("content_light")
    figures = promised if isinstance(promised, Mapping) else cause.values.get("measured")
    if not isinstance(figures, Mapping):
        return None
    whole = {}
    for name in ("max_cll", "max_fall"):
        value = figures.get(name)
        whole[name] = min(round(value), MOST_LIGHT) if isinstance(value, int | float) else 0
    return whole
