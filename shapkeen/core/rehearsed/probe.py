"""The values of both pictures at one place, or over an area: codes, light, colour, difference."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from ..colour.coding import light_from_signal
from ..colour.difference import difference_name
from ..colour.primaries import between, xyz_from_rgb
from ..measured import Reading
from ..measured.alignment.picture_map import PictureMap
from ..measured.decoded.frames import Frame
from ..measured.decoded.metrics import light_difference
from ..measured.decoded.rgb import rgb_signals
from ..measured.model import coding_of
from .heat import unknown_colours
from .moment import Moment

LEAST_LIGHT_NITS = 0.01
"""Below, a chromaticity is noise."""


@dataclass(frozen=True, slots=True)
class Area:
    """A place in the master's picture as fractions of width and height; no size: one sample."""

    left: float
    top: float
    width: float = 0.0
    height: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Probed:
    """One picture under the probe, the mean over the area.

    place: the first sample's column and row. samples: how many. codes: Y, Cb, Cr at the file's
    depth. light: R, G, B in cd/m²; luminance: cd/m². xy: CIE 1931, None where it is too dark.
    light is None where the coding is not known.
    """

    place: tuple[int, int]
    samples: int
    depth: int
    codes: tuple[float, float, float]
    light: tuple[float, float, float] | None
    luminance: float | None
    xy: tuple[float, float] | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ProbedPair:
    """Both pictures under the probe, and how far apart they are."""

    master: Probed
    export: Probed
    difference: float | None
    unit: str


def probe_moment(moment: Moment, area: Area) -> ProbedPair:
    """Return both pictures' values at the area, which is cut to the picture.

    The export is read where that part of the master lies in it.
    """
    master, one = _probe(moment.master, moment.master_reading, area)
    export, other = _probe(
        moment.export, moment.export_reading, place_in_export(area, moment.picture_map)
    )
    coding = coding_of(moment.export_reading)
    difference = None
    if one is not None and other is not None:
        step = between(coding_of(moment.master_reading).primaries, coding.primaries).T
        there = np.maximum(one @ step, 0.0)
        difference = float(light_difference(there[None], other[None], coding)[0])
    return ProbedPair(
        master=master,
        export=export,
        difference=difference,
        unit=difference_name(coding.transfer),
    )


def place_in_export(area: Area, picture_map: PictureMap) -> Area:
    """Return where an area of the master lies in the export; the same where it was turned."""
    if picture_map.turn or picture_map.mirrored:
        return area
    rect = picture_map.rect
    return Area(
        rect.left + area.left * rect.width,
        rect.top + area.top * rect.height,
        area.width * rect.width,
        area.height * rect.height,
    )


def light_of(frame: Frame, reading: Reading) -> npt.NDArray[np.float64]:
    """Return a frame's light in its own primaries, cd/m².

    Raises UsageError where its coding is not known.
    """
    coding = coding_of(reading)
    if not coding.is_known:
        raise unknown_colours()
    signals = rgb_signals(frame, reading)
    return light_from_signal(np.clip(signals.astype(np.float64), 0, 1), coding.transfer)


def part_of(frame: Frame, area: Area) -> tuple[Frame, tuple[int, int]]:
    """Return the samples under an area, chroma repeated to luma's raster, and the first's place."""
    height, width = frame.luma.shape
    rows, columns = _span(area.top, area.height, height), _span(area.left, area.width, width)
    return _cut(frame, rows, columns), (columns.start, rows.start)


def _span(first: float, size: float, count: int) -> slice:
    start = min(max(int(first * count), 0), count - 1)
    return slice(start, min(max(int((first + size) * count), start + 1), count))


def _probe(
    frame: Frame, reading: Reading, area: Area
) -> tuple[Probed, npt.NDArray[np.float64] | None]:
    part, place = part_of(frame, area)
    codes = [float(plane.mean()) for plane in (part.luma, part.cb, part.cr)]
    coding = coding_of(reading)
    light = xyz = None
    if coding.is_known:
        light = light_of(part, reading).reshape(-1, 3).mean(axis=0)
        xyz = xyz_from_rgb(coding.primaries) @ light
    lit = xyz is not None and xyz[1] > LEAST_LIGHT_NITS
    probed = Probed(
        place=place,
        samples=int(part.luma.size),
        depth=frame.depth,
        codes=(codes[0], codes[1], codes[2]),
        light=(float(light[0]), float(light[1]), float(light[2])) if light is not None else None,
        luminance=float(xyz[1]) if xyz is not None else None,
        xy=(float(xyz[0] / xyz.sum()), float(xyz[1] / xyz.sum()))
        if lit and xyz is not None
        else None,
    )
    return probed, light


def _cut(frame: Frame, rows: slice, columns: slice) -> Frame:
    """Return a part of a frame, chroma repeated to luma's raster."""
    height, width = frame.luma.shape
    wanted = np.ix_(np.arange(rows.start, rows.stop), np.arange(columns.start, columns.stop))
    planes = []
    for plane in (frame.cb, frame.cr):
        down, across = wanted[0] * plane.shape[0] // height, wanted[1] * plane.shape[1] // width
        planes.append(plane[down, across])
    return Frame(
        number=frame.number,
        depth=frame.depth,
        luma=frame.luma[rows, columns],
        cb=planes[0],
        cr=planes[1],
    )
