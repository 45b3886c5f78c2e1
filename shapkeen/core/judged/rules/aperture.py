"""Clean aperture: which part of the raster players that obey it show.

Source: ISO/IEC 14496-12 12.1.4.1: width and height in samples, offsets of its centre from the
raster's centre.
"""

from collections.abc import Mapping

from ...declared import Declaration, TraitValue
from ..evidence import Evidence
from ..model import Measure, Ruling, kept, lost

Part = tuple[float, float, float, float]
WHOLE: Part = (0.0, 0.0, 1.0, 1.0)
SIDE_SAMPLES = 1.0
"""A side off by less than a sample shows nothing else."""


def judge_clean_aperture(evidence: Evidence, trait: str) -> Ruling:
    """Judge whether players that obey it show the same part of the picture as the master's."""
    promised = evidence.promised(trait).value
    raster = _raster(evidence.export)
    wanted = _part(promised, _raster(evidence.master))
    spoken = evidence.spoken(trait)
    found = _part(spoken[0], raster) if spoken else WHOLE
    sides = (raster[0], raster[1], raster[0], raster[1])
    off = max(abs(a - b) * side for a, b, side in zip(wanted, found, sides, strict=True))
    measure = Measure("largest side off", round(off, 1), "samples", SIDE_SAMPLES)
    if off <= SIDE_SAMPLES:
        return kept("Players show the same part of the raster.", measure=measure)
    if not spoken:
        return lost("No witness states it, so players show the whole raster.", measure=measure)
    text = "Players that obey the stated part cut off what was to be seen, or show more."
    return lost(text, measure=measure)


def _raster(declaration: Declaration) -> tuple[int, int]:
    for witness in (declaration.wrapper, declaration.stream):
        said = witness.get("raster")
        if said is not None and isinstance(said.value, tuple):
            return int(said.value[0]), int(said.value[1])
    return 1, 1


def _part(aperture: TraitValue | None, raster: tuple[int, int]) -> Part:
    """Return a clean aperture as left, top, right and bottom in fractions of the raster."""
    if not isinstance(aperture, Mapping):
        return WHOLE
    ends = []
    for size, offset, side in (("width", "h_offset", raster[0]), ("height", "v_offset", raster[1])):
        wide, centre = _ratio(aperture.get(size)), _ratio(aperture.get(offset))
        if wide is None or centre is None:
            return WHOLE
        ends.append((0.5 + (centre - wide / 2) / side, 0.5 + (centre + wide / 2) / side))
    return ends[0][0], ends[1][0], ends[0][1], ends[1][1]


def _ratio(value: TraitValue | None) -> float | None:
    if isinstance(value, tuple) and len(value) == 2 and value[1]:
        return value[0] / value[1]
    return None
