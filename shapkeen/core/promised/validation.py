"""Promises that no picture can keep are refused before anything is measured."""

from collections.abc import Iterator, Mapping

from ..declared import Declaration
from ..errors import UsageError
from ..geometry.framing import STEPS, Area, broken_steps
from .model import Promise
from .stated import stated_by


def check_validity(promise: Promise, master: Declaration) -> None:
    """Raise UsageError with the first geometry that cannot be, and what to do about it."""
    for where, fault in _faults(promise, master):
        raise UsageError(fault, code="bad-promise", where=f"traits/{where}")


def _faults(promise: Promise, master: Declaration) -> Iterator[tuple[str, str]]:
    raster, chroma = promise.traits.get("raster"), promise.value("chroma")
    if raster is not None and raster.explicit and isinstance(raster.value, tuple):
        size = (int(raster.value[0]), int(raster.value[1]))
        if chroma in STEPS and (fault := broken_steps(size, str(chroma))):
            yield "raster", f"{fault} Promise even sides, or 4:4:4."
    own = stated_by(master, "raster")
    if own is None or not isinstance(own[1].value, tuple):
        return
    whole = (int(own[1].value[0]), int(own[1].value[1]))
    for crop in _crops(promise):
        if not Area(*crop).lies_in(whole):
            x, y, width, height = crop
            yield (
                "framing",
                f"A crop of {width}×{height} at {x},{y} does not lie in the master's "
                f"{whole[0]}×{whole[1]} samples. Make it smaller, or move it.",
            )


def _crops(promise: Promise) -> Iterator[tuple[int, int, int, int]]:
    framing = promise.value("framing")
    if not isinstance(framing, Mapping):
        return
    shots = framing.get("shots", ())
    for one in (framing, *(shots if isinstance(shots, tuple) else ())):
        crop = one.get("crop") if isinstance(one, Mapping) else None
        if isinstance(crop, tuple) and len(crop) == 4:
            yield int(crop[0]), int(crop[1]), int(crop[2]), int(crop[3])
