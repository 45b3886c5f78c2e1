"""What must be known before both files are read in step: where they meet, in time and in place.

Guessed from the opening, where that is enough: the pass over both files then shows whether it
held, and what did not hold is looked for again, in frames spread over the whole.
"""

from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from ...errors import UnreadableFileError, UsageError
from ..decoded.frames import Frame, FrameReader
from ..decoded.grid import Real, Rect
from ..model import Bars, Reading, Registration, Source
from .layout.repacking import in_steps, repack_frame
from .layout.stereo_layout import StereoLayout, find_stereo_layout, is_meant
from .place.bars import LineFinder, active_rect, find_bars
from .place.registration import Inside, is_textured, register
from .signature import small_picture
from .time.anchors import far_offset
from .time.pairing import (
    LONG_WINDOW,
    SHORT_WINDOW,
    best_offset,
    clear_offset,
    frame_ratio,
    plan_pairs,
    signature,
    thinned,
)

OPENING_PAIRS = 3
SPREAD_PAIRS = 7
CONFIRMING_PAIRS = 4
FINE = 8
"""Lumas wait as whole eighths of a code: half the memory."""
SPREAD_SAMPLES = 0.25
"""Registrations of one true offset agree within this."""


Size = tuple[int, int]
Keys = tuple[Sequence[int] | None, Sequence[int] | None]


@dataclass(frozen=True, slots=True)
class InitialAlignment:
    """Where master and export meet. place: None where no picture could say; raster: the export's.

    textured: whether there was any picture that could have said. decoded: frames, for all this.
    layout: how views share both pictures; the place is that of the repacked master.
    """

    offset: int
    place: Registration | None
    raster: tuple[int, int]
    textured: bool
    inside: Inside
    decoded: int
    layout: StereoLayout | None = None


@dataclass(slots=True)
class _Seen:
    """One file's opening, or frames spread over it: small lumas, and the extremes of its lines."""

    lumas: list[tuple[int, npt.NDArray[np.uint16]]]
    thin: list[Real]
    lines: LineFinder
    raster: tuple[int, int] = (1, 1)
    decoded: int = 0

    @property
    def bars(self) -> Bars | None:
        return find_bars(self.lines.result())


def _see(seen: _Seen, frame: Frame, reading: Reading, *, full_range: bool) -> None:
    """reading: the file's own; full_range: of the master's codes."""
    seen.lines.add(frame)
    seen.raster = frame.raster
    frame = repack_frame(frame, reading)
    seen.thin.append(thinned(frame))
    luma = small_picture(frame, full_range=full_range).luma
    seen.lumas.append((frame.number, (luma * FINE).astype(np.uint16)))


class _Opening:
    """Reads the first frames of one file, as many as are asked for."""

    def __init__(self, reader: FrameReader, reading: Reading, *, full_range: bool) -> None:
        self._reader = reader
        self._reading = reading
        self._frames: Iterator[Frame] = reader.read(range(LONG_WINDOW))
        self._full_range = full_range
        self._seen = _Seen([], [], LineFinder())

    def up_to(self, count: int) -> _Seen:
        while len(self._seen.lumas) < count:
            frame = next(self._frames, None)
            if frame is None:
                break
            _see(self._seen, frame, self._reading, full_range=self._full_range)
        self._seen.decoded = self._reader.decoded
        return self._seen


def find_initial_alignment(master: Source, export: Source) -> InitialAlignment:
    """Return where the two are aligned, by their opening alone where that tells, else by the whole.

    An export that is laid out otherwise (other eyes, a turned sphere) is met by the master laid out
    as it is. Raises UnreadableFileError where a file cannot be decoded, UsageError where the two
    share no moment or no picture.
    """
    readings = master.reading, export.reading
    with ExitStack() as stack:
        openings = _openings(stack, master, export)
        master_opening, export_opening = (opening.up_to(SHORT_WINDOW) for opening in openings)
        layout = _stereo_layout((master_opening, export_opening), readings)
        dark = not layout.textured and is_meant(readings)
        opened = None
        if layout.repacking.is_plain and not dark:
            opened = _align_opening(openings, master, export)
    if dark:
        layout = _stereo_layout(_seen_at(master, export, 0, SPREAD_PAIRS)[0], readings)
    if opened is None:
        master = repacked_source(master, layout)
        with ExitStack() as stack:
            opened = _align_opening(_openings(stack, master, export), master, export)
    return replace(_confirmed(master, export, *opened), layout=layout)


def _stereo_layout(seen: Sequence[_Seen], readings: tuple[Reading, Reading]) -> StereoLayout:
    """Return how both are laid out, in whole samples of the master's raster."""
    layout = find_stereo_layout(_lumas(seen[0]), _lumas(seen[1]), readings)
    return replace(layout, repacking=in_steps(layout.repacking, seen[0].raster))


def repacked_source(master: Source, layout: StereoLayout | None) -> Source:
    """Return a master that is read as it lies in its export."""
    if layout is None or layout.repacking.is_plain:
        return master
    return replace(master, reading=replace(master.reading, repacking=layout.repacking))


def _openings(stack: ExitStack, master: Source, export: Source) -> list[_Opening]:
    return [
        _Opening(
            stack.enter_context(FrameReader(source.path, source.reading.rate)),
            source.reading,
            full_range=master.reading.full_range,
        )
        for source in (master, export)
    ]


def _lumas(seen: _Seen) -> list[Real]:
    return [_codes(luma) for _, luma in seen.lumas]


def _align_opening(
    openings: Sequence[_Opening], master: Source, export: Source
) -> tuple[int, InitialAlignment]:
    """Return by how many frames the export begins later, and the alignment by the opening."""
    master_opening, export_opening = (opening.up_to(SHORT_WINDOW) for opening in openings)
    offset = clear_offset(_signatures(master_opening), _signatures(export_opening))
    if offset is None:
        master_opening, export_opening = (opening.up_to(LONG_WINDOW) for opening in openings)
        offset = best_offset(_signatures(master_opening), _signatures(export_opening))
    return offset, _alignment_of(
        master_opening, export_opening, offset, OPENING_PAIRS, _aspects(master, export)
    )


def _confirmed(
    master: Source, export: Source, offset: int, found: InitialAlignment
) -> InitialAlignment:
    """Return where the two are aligned; by the whole, where the opening leaves doubts."""
    if offset == 0 and found.place is not None and found.place.spread <= SPREAD_SAMPLES:
        return found
    if offset != 0:
        there, here = (align_at(master, export, at, pairs=CONFIRMING_PAIRS) for at in (offset, 0))
        offset = offset if _is_better(there, here) else 0
    try:
        return align_spread(master, export, offset)
    except UsageError:
        far = (
            far_offset(master, export) if frame_ratio(master.reading, export.reading) == 1 else None
        )
        if far is None or far == offset:
            raise
        return align_spread(master, export, far)


def align_spread(master: Source, export: Source, offset: int) -> InitialAlignment:
    """Return where the two are aligned by frames spread over both; raises as meet() does."""
    alignment = align_at(master, export, offset, pairs=SPREAD_PAIRS)
    if alignment is None:
        raise UsageError(
            "The two files have no moment in common: one ends before the other begins. "
            "Choose the export that belongs to this master.",
            code="no-common-frame",
            where=export.path.name,
        )
    if alignment.place is None and alignment.textured:
        for source in (export, master):
            _check_decodes(source)
        raise UsageError(
            "The two files have no frame in common: no picture of the export resembles the "
            "master's at that time. Choose the export that belongs to this master.",
            code="no-common-frame",
            where="picture",
        )
    return alignment


def _check_decodes(source: Source) -> None:
    """Raise UnreadableFileError where most pictures of a file decode with errors only."""
    numbers = plan_pairs(source.reading, source.reading, offset=0, frames=SPREAD_PAIRS)
    with FrameReader(source.path, source.reading.rate) as reader:
        for _ in reader.read([number for number, _ in numbers]):
            pass
        broken, decoded = reader.broken, reader.decoded
    if broken * 2 > decoded:
        raise UnreadableFileError(
            f"The coded pictures are broken: {broken} of {decoded} that were looked at decode only "
            "with errors. Copy the file again from where it was exported, or export it again.",
            code="stream-damaged",
            where=source.path.name,
        )


def align_at(master: Source, export: Source, offset: int, *, pairs: int) -> InitialAlignment | None:
    """Return the alignment at an offset, by pairs spread over both; None without any."""
    seen, partners = _seen_at(master, export, offset, pairs)
    if not all(found.lumas for found in seen):
        return None
    return _alignment_of(seen[0], seen[1], offset, pairs, _aspects(master, export), partners)


def align_by(
    master: Source, export: Source, plan: Sequence[tuple[int, int]], keys: Keys
) -> InitialAlignment | None:
    """Return the alignment of two files that begin together, by given pairs of their frames.

    keys: as FrameReader's, of both files. None where their pictures share no place.
    """
    readings = master.reading, export.reading
    seen, partners = _seen_in(master, export, plan, keys)
    if not all(found.lumas for found in seen):
        return None
    layout = _stereo_layout(seen, readings)
    if not layout.repacking.is_plain:
        seen, partners = _seen_in(repacked_source(master, layout), export, plan, keys)
    aspects = _aspects(master, export)
    found = _alignment_of(seen[0], seen[1], 0, len(plan), aspects, partners)
    return None if found.place is None and found.textured else replace(found, layout=layout)


def _seen_at(
    master: Source, export: Source, offset: int, pairs: int
) -> tuple[list[_Seen], dict[int, int]]:
    """Return pairs of frames spread over both files, and the master's frame by the export's."""
    plan = plan_pairs(master.reading, export.reading, offset=offset, frames=pairs)
    return _seen_in(master, export, plan)


def _seen_in(
    master: Source,
    export: Source,
    plan: Sequence[tuple[int, int]],
    keys: Keys = (None, None),
) -> tuple[list[_Seen], dict[int, int]]:
    """Return given pairs of frames, and the master's frame by the export's."""
    full_range = master.reading.full_range

    def look(side: int) -> _Seen:
        file, found = (master, export)[side], _Seen([], [], LineFinder())
        with FrameReader(file.path, file.reading.rate, keys=keys[side]) as reader:
            for frame in reader.read([pair[side] for pair in plan]):
                _see(found, frame, file.reading, full_range=full_range)
            found.decoded = reader.decoded
        return found

    with ThreadPoolExecutor(2) as pool:  # single frames keep one core busy
        seen = list(pool.map(look, range(2)))
    return seen, {export_number: master_number for master_number, export_number in plan}


def _is_better(there: InitialAlignment | None, here: InitialAlignment | None) -> bool:
    """Return whether registered pictures agree better at an offset than at none.

    A cut or a zoom can look like another moment to signatures, never to registration.
    """
    one, other = (alignment.place if alignment else None for alignment in (there, here))
    if one is None or other is None:
        return one is not None
    # A window that wanders over a still picture fits other moments too, at ever other places.
    return one.likeness > other.likeness and one.spread <= other.spread + SPREAD_SAMPLES


def _signatures(seen: _Seen) -> list[Real]:
    active = active_rect(seen.bars, seen.raster)
    return [signature(luma, active) for luma in seen.thin]


def _aspects(master: Source, export: Source) -> tuple[float, float]:
    return master.reading.aspect, export.reading.aspect


def _shapes(master: Size, export: Size, aspects: tuple[float, float]) -> tuple[float, ...]:
    """Return shown shapes of the export ÷ the master's: by the stated pixel aspects, and stored."""
    stored = export[0] * master[1] / (export[1] * master[0])
    return stored * aspects[1] / aspects[0], stored


def _hint(place: Registration | None, raster: Size) -> Rect | None:
    if place is None:
        return None
    width, height = raster
    return Rect(place.left / width, place.top / height, place.width / width, place.height / height)


def _alignment_of(
    master: _Seen,
    export: _Seen,
    offset: int,
    most: int,
    aspects: tuple[float, float],
    partners: dict[int, int] | None = None,
) -> InitialAlignment:
    """Return where the two are aligned by at most so many pairs of the frames seen."""
    masters = dict(master.lumas)
    pairs = [
        (_codes(masters[there]), _codes(luma))
        for number, luma in export.lumas
        if (there := partners.get(number, -1) if partners else number + offset) in masters
    ]
    textured = [pair for pair in pairs if is_textured(pair[0]) and is_textured(pair[1])]
    if partners is None:
        # Close to the beginning nothing is missing yet: behind a lost frame, a picture that wanders
        # would be found beside its place.
        textured = textured[:SHORT_WINDOW]
    actives = [active_rect(seen.bars, seen.raster) for seen in (master, export)]
    shapes = _shapes(master.raster, export.raster, aspects)
    place = register(
        _spread(textured, most),
        master_active=actives[0],
        export_active=actives[1],
        export_raster=export.raster,
        shapes=shapes,
    )
    turn, mirrored = (place.turn, place.mirrored) if place else (0, False)
    return InitialAlignment(
        offset,
        place,
        export.raster,
        textured=bool(textured),
        inside=Inside(actives[0], actives[1], turn, mirrored, _hint(place, export.raster), shapes),
        decoded=master.decoded + export.decoded,
    )


def _codes(luma: npt.NDArray[np.uint16]) -> Real:
    return np.asarray(luma / np.float32(FINE), np.float32)


def _spread(pairs: Sequence[tuple[Real, Real]], most: int) -> list[tuple[Real, Real]]:
    if len(pairs) <= most:
        return list(pairs)
    return [pairs[round(float(i))] for i in np.linspace(0, len(pairs) - 1, most)]
