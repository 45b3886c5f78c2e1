"""What the pages for looking around a sphere and through both eyes are drawn from."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from ...core.colour.anaglyph import ALL, plain_channels
from ...core.geometry.packing import BESIDE, STACKED, shown_eye, way_of
from ...core.judged import Comparison
from ...core.judged.evidence import Evidence, shown_rate, specified
from ...core.judged.geometry import aspect_of
from ...core.judged.rules.eyes import convergence_change, promised_shift
from .moments import Strip

WHOLE = (0.0, 0.0, 1.0, 1.0)


@dataclass(frozen=True, slots=True)
class Side:
    """One file as these pages need it.

    left, right: the eyes' places as fractions of the picture: left, top, width, height; the same
    where there is one. width: samples of one eye. shape: of one eye as shown. ahead: where viewers
    look first, in degrees right and up.
    """

    left: tuple[float, float, float, float]
    right: tuple[float, float, float, float]
    width: int
    shape: float
    ahead: tuple[float, float]


def sides_of(comparison: Comparison) -> dict[str, Side]:
    """Return both files."""
    survey = comparison.survey
    names = survey.eyes.packings if survey.eyes else (None, None)
    rasters = survey.master_whole.raster, survey.export_whole.raster
    declared = comparison.master, comparison.export
    return {
        side: _side(name, raster, declaration)
        for side, name, raster, declaration in zip(
            ("master", "export"), names, rasters, declared, strict=True
        )
    }


def _side(name: str | None, raster: tuple[int, int], declaration: object) -> Side:
    from ...core.declared import Declaration

    assert isinstance(declaration, Declaration)  # noqa: S101  (both of the comparison's are)
    told = way_of(name)
    cells = _cells(told[0]) if told else (WHOLE, WHOLE)
    left, right = cells if told is None or told[1] else cells[::-1]
    h, v = aspect_of(declaration)
    width = round(raster[0] * left[2])
    pose = specified(declaration.wrapper, "pose") or specified(declaration.stream, "pose")
    shape = raster[0] * left[2] * h / v / (raster[1] * left[3])
    shown = shown_eye(shape, told[0]) if told else shape
    return Side(left, right, width, round(shown, 5), _ahead(pose))


def _cells(way: str) -> tuple[tuple[float, float, float, float], ...]:
    if way == BESIDE:
        return (0.0, 0.0, 0.5, 1.0), (0.5, 0.0, 0.5, 1.0)
    if way == STACKED:
        return (0.0, 0.0, 1.0, 0.5), (0.0, 0.5, 1.0, 0.5)
    return WHOLE, WHOLE


def _ahead(pose: object) -> tuple[float, float]:
    """Return where a stated pose lets viewers look first: it turns the content the other way."""
    if not isinstance(pose, Mapping):
        return 0.0, 0.0
    return float(pose.get("yaw", 0.0)), -float(pose.get("pitch", 0.0))


def glasses() -> list[dict[str, object]]:
    """Return the coloured glasses that can be looked through, each with its plain way."""
    return [
        {
            "name": pair.name,
            "left": pair.left,
            "right": pair.right,
            "filters": pair.filters,
            "plain": [plain_channels(pair).left, plain_channels(pair).right],
        }
        for pair in ALL
    ]


def pairs_of(strip: Strip) -> list[tuple[int, int]]:
    """Return the pairs of frames that can be shown, master's and export's."""
    return [(int(row[0] or 0), int(row[1] or 0)) for row in strip.rows]


def rate_of(comparison: Comparison) -> Fraction:
    """Return the export's rate."""
    return shown_rate(comparison.export)[0] or Fraction(25)


def kept_shift(comparison: Comparison) -> float:
    """Return the convergence that is promised now, in % of the width."""
    evidence = Evidence(comparison.promise, comparison.master, comparison.export, comparison.survey)
    return promised_shift(evidence)


def shifted_by(comparison: Comparison) -> float:
    """Return by how much the export's right eye is shifted against the master's, in % of width."""
    evidence = Evidence(comparison.promise, comparison.master, comparison.export, comparison.survey)
    change = convergence_change(evidence)
    return 0.0 if change is None else change + promised_shift(evidence)
