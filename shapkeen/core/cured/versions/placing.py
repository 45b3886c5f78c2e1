"""Which part of the master lies where in a version, frame by frame."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ...errors import UsageError
from ...geometry.framing import Area, Size, cut_to, placed, shown_shape
from ...geometry.packing import MONO, parts_of, shown_eye, way_of
from ...judged.tolerances import SHAPE_RATIO
from ...promised import Promise
from .picture.maker import Piece


@dataclass(frozen=True, slots=True)
class Picture:
    """Raster, pixel aspect, and how eyes share it."""

    raster: Size
    aspect: Size
    stereo: str

    @property
    def way(self) -> tuple[str, bool]:
        """Return how eyes share the raster, and whether the left one comes first."""
        return way_of(self.stereo) or (MONO, True)

    @property
    def eye(self) -> Size:
        """Return the raster of one eye."""
        across, down = parts_of(self.way[0])
        return self.raster[0] // across, self.raster[1] // down

    @property
    def eye_shape(self) -> float:
        """Return the shape at which an eye is shown."""
        return shown_eye(float(shown_shape(self.eye, self.aspect)), self.way[0])

    def cells(self) -> tuple[Area, ...]:
        """Return where the eyes lie: the left one's place first."""
        across, down = parts_of(self.way[0])
        width, height = self.eye
        made = [
            Area(x * width, y * height, width, height) for y in range(down) for x in range(across)
        ]
        return tuple(made if self.way[1] else made[::-1])


@dataclass(frozen=True, slots=True)
class Placing:
    """Where the picture lies. shots: (first, last, pieces) of stretches that are cut elsewhere."""

    pieces: tuple[Piece, ...]
    shots: tuple[tuple[int, int, tuple[Piece, ...]], ...] = ()

    def at(self, number: int) -> tuple[Piece, ...]:
        """Return the pieces of a frame of the master."""
        found = (pieces for first, last, pieces in self.shots if first <= number <= last)
        return next(found, self.pieces)


def placing_of(master: Picture, version: Picture, promise: Promise, chroma: str) -> Placing:
    """Return where the picture lies by a promise; raises UsageError for what cannot be."""
    framing = promise.value("framing")
    if isinstance(framing, Mapping):
        return _framed(master, version, framing)
    if master.way[0] == MONO and version.way[0] == MONO and _is_shaped_otherwise(master, version):
        if master.aspect != version.aspect:
            raise _impossible(
                f"The master is shown {master.eye_shape:.3f} times as wide as high, the version "
                f"{version.eye_shape:.3f} times, and no framing says what is cut or padded.",
                "promise/raster",
            )
        return _centred(master, version, chroma)
    return Placing(_eyes(master, version, _shift(promise)))


def _is_shaped_otherwise(master: Picture, version: Picture) -> bool:
    return abs(version.eye_shape / master.eye_shape - 1) > SHAPE_RATIO


def _framed(master: Picture, version: Picture, framing: Mapping[str, Any]) -> Placing:
    if (master.way[0], version.way[0]) != (MONO, MONO):
        raise _impossible("A cut or bars are framed for one eye; here are two.", "promise/framing")
    bars = framing.get("bars") or {}
    width, height = version.raster
    left, top = bars.get("left", 0), bars.get("top", 0)
    place = Area(
        left, top, width - left - bars.get("right", 0), height - top - bars.get("bottom", 0)
    )
    if not place.lies_in(version.raster):
        raise _impossible("The bars leave nothing of the frame.", "promise/framing")
    made = Placing(
        (_piece(framing["crop"], place, master),),
        tuple(
            (shot["first"], shot["last"], (_piece(shot["crop"], place, master),))
            for shot in framing.get("shots", ())
        ),
    )
    for pieces in (made.pieces, *(shot[2] for shot in made.shots)):
        _check_shape(master, version, pieces[0])
    return made


def _piece(crop: tuple[int, int, int, int], place: Area, master: Picture) -> Piece:
    part = Area(*crop)
    if not part.lies_in(master.raster):
        raise _impossible(
            f"The cut {crop} leaves the master's {master.raster[0]}×{master.raster[1]} samples.",
            "promise/framing",
        )
    return Piece(part, place)


def _check_shape(master: Picture, version: Picture, piece: Piece) -> None:
    own = float(shown_shape(piece.part.size, master.aspect))
    there = float(shown_shape(piece.place.size, version.aspect))
    if abs(there / own - 1) > SHAPE_RATIO:
        raise _impossible(
            f"The cut has a shape of {own:.3f}, its place in the frame one of {there:.3f}: circles "
            "would become ellipses. Choose bars or another cut.",
            "promise/framing",
        )


def _centred(master: Picture, version: Picture, chroma: str) -> Placing:
    """Return a cut of the middle: what another shape without a framing means."""
    shape = shown_shape(version.raster, version.aspect)
    size = cut_to(master.raster, master.aspect, shape, chroma)
    part = placed(master.raster, size, (0.5, 0.5), chroma)
    return Placing((Piece(part, Area(0, 0, *version.raster)),))


def _eyes(master: Picture, version: Picture, shift: float) -> tuple[Piece, ...]:
    """Return each eye's piece; of one eye wanted from two, the left one's."""
    own, wanted = master.cells(), version.cells()
    if len(wanted) > len(own):
        raise _impossible("The master has one eye, and two are promised.", "promise/stereo")
    if len(own) > 1 and _is_shaped_otherwise(master, version):
        raise _impossible(
            f"An eye of the master is shown {master.eye_shape:.3f} times as wide as high, one of "
            f"the version {version.eye_shape:.3f} times: circles would become ellipses.",
            "promise/raster",
        )
    pieces = tuple(Piece(part, cell) for part, cell in zip(own, wanted, strict=False))
    return _converged(pieces, shift) if len(pieces) > 1 else pieces


def _converged(pieces: tuple[Piece, ...], shift: float) -> tuple[Piece, ...]:
    """Return both eyes moved apart by a share of the width, half of it each.

    What is left free at the sides stays black: a window that floats before the screen.
    """
    by = round(abs(shift) * pieces[0].part.width)
    halves = (-(by // 2), by - by // 2)
    # Positive: the right eye's content goes right.
    signed = halves if shift > 0 else tuple(-one for one in halves)
    return tuple(_moved(piece, one) for piece, one in zip(pieces, signed, strict=True))


def _moved(piece: Piece, by: int) -> Piece:
    """Return a piece whose content lies by so many of the master's samples further right."""
    part, place = piece.part, piece.place
    there = round(by * place.width / part.width)
    cut, free = max(-by, 0), max(there, 0)
    return Piece(
        Area(part.left + cut, part.top, part.width - abs(by), part.height),
        Area(place.left + free, place.top, place.width - abs(there), place.height),
    )


def _shift(promise: Promise) -> float:
    value = promise.value("convergence")
    shift = value.get("shift") if isinstance(value, Mapping) else 0
    return float(shift) / 100 if isinstance(shift, int | float) else 0.0


def _impossible(text: str, where: str) -> UsageError:
    return UsageError(text, code="bad-recipe", where=where)
