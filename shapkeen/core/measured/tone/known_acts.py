"""What a known act makes of any colours: where a picture had none, its formula still speaks."""

from collections.abc import Iterator, Sequence

import numpy as np

from ...colour.coding import Coding, Triples
from ..model import Act, ActFit
from .candidates import of_family
from .conversions import Cells, residual


def done_to(codes: Triples, fit: ActFit, cells: Cells, coding: Coding) -> Triples | None:
    """Return what codes (n, 3) become by the act, or both acts, that were fitted to some cells.

    None for acts that depend on the picture. An act that is done in several ways is taken in the
    one that leaves least over in the cells.
    """
    ways = list(_ways(fit.acts, np.concatenate([cells.expected, codes]), coding))
    if not ways:
        return None
    count = len(cells.expected)
    return min(ways, key=lambda made: residual(cells, made[:count]))[count:]


def _ways(acts: Sequence[Act], codes: Triples, coding: Coding) -> Iterator[Triples]:
    if not acts:
        yield codes
        return
    first, *others = acts
    for name, values, made in of_family(first, codes, coding):
        if name == first.name and values == first.values:
            yield from _ways(others, made, coding)
