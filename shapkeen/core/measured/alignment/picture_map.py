"""How a master's picture is laid over the export's, to be held against it."""

from dataclasses import dataclass, replace

from ...colour.coding import Coding
from ..decoded.grid import Real, Rect, Reduced, common_planes, part_of, shared_with
from ..model import Reading, Registration
from .expected import can_convert, expected_planes, folds
from .place.turning import turned

Planes = dict[str, Real]
"""luma, and cb and cr of half its size, 10-bit codes."""


@dataclass(frozen=True, slots=True)
class PictureMap:
    """Where the whole master lies in the export, how it is turned, and what it should become.

    rect: its place in fractions of the export's raster. own: the master's coding; goal: the
    promised one.
    """

    rect: Rect
    turn: int
    mirrored: bool
    own: Coding
    goal: Coding

    @property
    def shared(self) -> Rect:
        """Return the part of the export that shows the master, in fractions of its raster."""
        return shared_with(self.rect)

    @property
    def in_master(self) -> Rect:
        """Return the part of the upright master that the export shows, in fractions of it."""
        return part_of(self.rect)

    @property
    def folds(self) -> bool:
        """Return whether the promise makes SDR of HDR."""
        return folds(self.own, self.goal)

    def planes(self, master: Reduced, export: Reduced, *, step: int) -> tuple[Planes, Planes]:
        """Return the expected and the delivered planes of the part that both show, on one grid.

        master, export: the master's and the export's picture. step: as in grid.common_planes.
        """
        mastered, delivered = self.mastered_planes(master, export, step=step)
        if self.own != self.goal:
            mastered = expected_planes(mastered, self.own, self.goal)
        return mastered, delivered

    def mastered_planes(
        self, master: Reduced, export: Reduced, *, step: int
    ) -> tuple[Planes, Planes]:
        """Return planes as `planes` does, the master's in its own coding."""
        upright = master
        if self.turn or self.mirrored:
            planes = (master.luma, master.cb, master.cr)
            upright = Reduced(*(turned(p, self.turn, mirrored=self.mirrored) for p in planes))
        return common_planes(upright, export, self.rect, step=step)


def registration_at_frame(
    place: Registration, raster: tuple[int, int], master: Reading, number: int
) -> Registration:
    """Return the place of the whole master during a frame of it whose cut is promised elsewhere.

    raster: the master's.
    """
    dx, dy = master.moved(number)
    left = place.left - dx * place.width / raster[0]
    return replace(place, left=left, top=place.top - dy * place.height / raster[1])


def picture_map_of(
    place: Registration | None, raster: tuple[int, int], *, own: Coding, goal: Coding
) -> PictureMap | None:
    """Return how the master is laid over an export of a raster.

    None where the pictures could not be registered, or no formula makes the expected one.
    """
    if place is None or not can_convert(own, goal):
        return None
    width, height = raster
    rect = Rect(place.left / width, place.top / height, place.width / width, place.height / height)
    return PictureMap(rect, place.turn, place.mirrored, own, goal)


def picture_map_or_identity(
    place: Registration | None, raster: tuple[int, int], *, own: Coding, goal: Coding
) -> PictureMap:
    """Return as lay() does; where that gives nothing, both pictures just as they lie."""
    as_they_lie = PictureMap(Rect(), 0, False, own, goal if own.is_known and goal.is_known else own)
    return picture_map_of(place, raster, own=own, goal=goal) or as_they_lie
