"""A title of the demo, and one of its exports."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from ..recipes import Recipe


@dataclass(frozen=True, kw_only=True)
class Export:
    """One export of the demo: for whom, how it was coded, what happened to it.

    promise: what the delivery asks for in place of the master's values, by trait. without: frames
    that never came out. planned: the specification's key and the choices (fields of the Plan page)
    of the plan that is kept with the delivery. sound: what happened to it (an act of ticking.py),
    "none" where it was left out.
    """

    delivery: str
    file: str
    recipe: Recipe
    change: str = ""
    promise: Mapping[str, int] = field(default_factory=dict)
    without: frozenset[int] = frozenset()
    planned: tuple[str, Mapping[str, str]] | None = None
    sound: str = ""


@dataclass(frozen=True, kw_only=True)
class Feature:
    """One title of the demo with its master and exports.

    light: pq, hlg or sdr. scene: workshop, room (a whole sphere) or gears (two eyes beside each
    other); raster: of the whole picture. ticks: whether its gear train is heard.
    """

    name: str
    note: str
    master: str
    recipe: Recipe
    light: str
    exports: tuple[Export, ...]
    raster: tuple[int, int] = (1280, 720)
    frames: int = 36
    scene: str = "workshop"
    ticks: bool = False


def files_of(features: Iterable[Feature]) -> list[str]:
    """Return every file name of some features, masters first."""
    return [name for f in features for name in (f.master, *(export.file for export in f.exports))]
