"""What the pages for looking around a sphere and through both eyes are drawn from."""

from collections.abc import Mapping
from dataclasses import dataclass

from ...core.colour.anaglyph import ALL, plain_channels
from ...core.declared import Declaration
from ...core.geometry.packing import parts_of, shown_eye, stereo_of, way_of
from ...core.judged import Comparison
from ...core.judged.evidence import Evidence
from ...core.judged.geometry import aspect_of
from ...core.judged.rules.eyes import convergence_change, promised_shift
from ...core.promised import stated_by
from ...core.reported.immersive import degrees_across

WHOLE = (0.0, 0.0, 1.0, 1.0)


@dataclass(frozen=True, slots=True)
class Side:
    """One file as these pages need it.

    left, right: where viewers' eyes get their pictures from, by what the file states, as fractions
    of the picture: left, top, width, height; the same where there is one. stereo: how they are
    packed so, None where nothing tells; exchanged: with left and right exchanged. said: where that
    is known from: the file, or its picture where the file is silent. width: samples
    of one eye. shape: of one eye as shown. degrees: that a sphere's picture covers across. ahead:
    where viewers look first, in degrees right and up.
    """

    left: tuple[float, float, float, float]
    right: tuple[float, float, float, float]
    stereo: str | None
    exchanged: str | None
    said: str
    width: int
    shape: float
    degrees: float
    ahead: tuple[float, float]


def sides_of(comparison: Comparison) -> dict[str, Side]:
    """Return both files."""
    survey = comparison.survey
    names = survey.eyes.packings if survey.eyes else (None, None)
    kinds = survey.sphere.kinds if survey.sphere else (None, None)
    rasters = survey.master_statistics.raster, survey.export_statistics.raster
    return {
        "master": _side(names[0], kinds[0], rasters[0], comparison.master),
        "export": _side(names[1], kinds[1], rasters[1], comparison.export),
    }


def _side(
    name: str | None, kind: str | None, raster: tuple[int, int], declaration: Declaration
) -> Side:
    stated = stated_by(declaration, "stereo")
    said = "the file" if stated and way_of(stated[1].value) else "its picture"
    # A wrong flag is not put right here: viewers are shown what it says.
    name = str(stated[1].value) if stated and said == "the file" else name
    told = way_of(name)
    other = stereo_of(told[0], left_first=not told[1]) if told else None
    cells = _cells(told[0]) if told else (WHOLE, WHOLE)
    left, right = cells if told is None or told[1] else cells[::-1]
    h, v = aspect_of(declaration)
    width = round(raster[0] * left[2])
    pose = stated_by(declaration, "pose")
    ahead = _ahead(pose[1].value if pose else None)
    shape = raster[0] * left[2] * h / v / (raster[1] * left[3])
    shown = shown_eye(shape, told[0]) if told else shape
    degrees = degrees_across(kind, declaration)
    return Side(left, right, name, other, said, width, round(shown, 5), degrees, ahead)


def _cells(way: str) -> tuple[tuple[float, float, float, float], ...]:
    across, down = parts_of(way)
    wide, high = 1 / across, 1 / down
    return (0.0, 0.0, wide, high), (1 - wide, 1 - high, wide, high)


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


@dataclass(frozen=True, slots=True)
class Shifts:
    """The right eye's shift against the master's in % of its width: promised, and the export's."""

    promised: float
    found: float


def shifts_of(comparison: Comparison) -> Shifts:
    """Return which convergence is promised now, and which one the export has."""
    evidence = Evidence(comparison.promise, comparison.master, comparison.export, comparison.survey)
    promised, change = promised_shift(evidence), convergence_change(evidence)
    return Shifts(promised, 0.0 if change is None else change + promised)
