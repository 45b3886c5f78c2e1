"""What is looked at in a rehearsal: the master, what was sent, and what is received of it.

Master and sent file are shown as they are meant, received ones as the service took them: so a
picture that was taken for something else looks as its viewers see it.
"""

from collections.abc import Sequence
from pathlib import Path

import cv2
import numpy as np

from ..declared import read_declaration
from ..geometry.framing import Size
from ..judged import plan_reading
from ..judged.geometry import aspect_of
from ..measured import Source
from ..promised import value_stated
from .ladder import Plan
from .ladder.coding import frames_of
from .ladder.making import Sent, code_renditions
from .ladder.through_service import turned
from .received.facts import facts_of
from .screen import Real
from .stand_in.model import Value
from .stills import frame_at, png_of
from .viewers import Layout, Screen
from .viewers.playing import Side
from .viewers.showing import shown

PART = (288, 162)
"""Samples of the screen: what of a picture is shown to be held against others."""


def master_side(path: Path, numbers: Sequence[int]) -> Side:
    """Return the master's frames of these numbers; raises UnreadableFileError."""
    declared = read_declaration(path)
    reading = plan_reading(declared)
    raster = value_stated(declared, "raster")
    size = (int(raster[0]), int(raster[1])) if isinstance(raster, tuple) else (2, 2)
    layout = Layout(
        raster=size,
        aspect=aspect_of(declared),
        projection=reading.projection,
        stereo=reading.stereo,
    )
    rising = sorted(set(numbers))
    return Side(frames_of(Source(path, reading), rising), reading, layout)


def sent_side(sent: Sent, numbers: Sequence[int]) -> Side:
    """Return frames of what was sent, as it is meant."""
    meant = {one.trait: one.promised for one in sent.recognition.traits}
    frames = (turned(frame, sent.meant_turn) for frame in frames_of(sent.source, numbers))
    return Side(frames, sent.meant, _layout(sent, sent.meant_turn, meant))


def received_side(
    sent: Sent, plan: Plan, shows: Sequence[int], folder: Path, numbers: Sequence[int]
) -> Side:
    """Return frames of a rendition, coded first where it does not lie in the folder.

    shows: the film's frames that the rendition shows. numbers: of those that are wanted, rising;
    one that it leaves out is the nearest.
    """
    source = code_renditions(sent, [plan], shows, folder)[plan]
    taken = {one.trait: one.taken for one in sent.recognition.traits}
    if plan.is_sent:
        frames = (turned(frame, sent.turn) for frame in frames_of(source, numbers))
        return Side(frames, source.reading, _layout(sent, sent.turn, taken))
    places = sorted({_nearest(shows, number) for number in numbers})
    layout = Layout(
        raster=plan.raster, projection=_word(taken["projection"]), stereo=_word(taken["stereo"])
    )
    return Side(frames_of(source, places), source.reading, layout)


def _layout(sent: Sent, turn: int, values: dict[str, Value]) -> Layout:
    width, height = facts_of(sent.declared).raster or (2, 2)
    aspect = values["pixel_aspect"]
    wide: Size = aspect if isinstance(aspect, tuple) else (1, 1)
    upright = turn % 180 == 0
    return Layout(
        raster=(width, height) if upright else (height, width),
        aspect=wide if upright else (wide[1], wide[0]),
        projection=_word(values["projection"]),
        stereo=_word(values["stereo"]),
    )


def _nearest(shown: Sequence[int], number: int) -> int:
    return min(range(len(shown)), key=lambda place: abs(shown[place] - number))


def _word(value: Value) -> str | None:
    return value if isinstance(value, str) else None


def part_of_file(path: Path, screen: Screen, like: Path) -> bytes:
    """Return a part of a file's middle frame as PNG, sample for sample as a screen shows it.

    like: a file of the same picture, which tells where it has most detail: so that several files
    show one place. Raises UnreadableFileError where there is no picture.
    """
    left, top = _busiest(_middle_shown(like, screen))
    picture = _middle_shown(path, screen)
    return png_of(picture[top : top + PART[1], left : left + PART[0]], path.name)


def _middle_shown(path: Path, screen: Screen) -> Real:
    reading = plan_reading(read_declaration(path))
    frame = frame_at(Source(path, reading), (reading.frame_count or 1) // 2)
    layout = Layout(raster=frame.raster, projection=reading.projection, stereo=reading.stereo)
    return shown(frame, reading, screen, layout)


def _busiest(picture: Real) -> tuple[int, int]:
    """Return the corner of the part of PART's size that has most detail."""
    detail = np.abs(cv2.Laplacian(picture.mean(axis=2), cv2.CV_32F))
    mean = cv2.blur(detail, PART)
    width, height = PART[0] // 2, PART[1] // 2
    inside = mean[height : mean.shape[0] - height, width : mean.shape[1] - width]
    if not inside.size:
        return 0, 0
    row, column = np.unravel_index(int(inside.argmax()), inside.shape)
    return int(column), int(row)
