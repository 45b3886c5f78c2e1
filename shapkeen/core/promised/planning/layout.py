"""The geometry of a plan: which part of the master lies where in the delivered frame."""

from dataclasses import dataclass
from fractions import Fraction

from ...geometry.framing import (
    Area,
    ImpossibleError,
    Size,
    cut_to,
    fit_inside,
    is_whole,
    lowered,
    placed,
    shown_shape,
    to_step,
    widened,
)
from ...geometry.packing import Packing, packing_of
from ...geometry.sphere import SPHERES
from ..specification import Specification
from .choices import Choices
from .subject import Subject


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """Where the picture goes. For two eyes, crop and picture are those of each eye.

    source, source_aspect: raster and pixel aspect of (one eye of) the master. frame: the whole
    stored raster; cell: one eye's part of it; aspect: the pixel aspect that is stated; stretch:
    by how much a sample of the cell is shown wider than high. crop: in master samples;
    picture: in the cell's samples.
    """

    source: Size
    source_aspect: Fraction
    frame: Size
    cell: Size
    aspect: Size
    stretch: Fraction
    crop: Area
    picture: Area
    chroma: str

    @property
    def scale(self) -> tuple[Fraction, Fraction]:
        """Return delivered samples for each master sample, across and down."""
        return (
            Fraction(self.picture.width, self.crop.width),
            Fraction(self.picture.height, self.crop.height),
        )

    @property
    def enlargement(self) -> Fraction:
        """Return the enlargement that sharpness depends on.

        The larger of both directions, without what only makes samples square.
        """
        across, down = self.scale
        return max(across / (self.source_aspect / self.stretch), down)

    @property
    def is_whole_enlargement(self) -> bool:
        """Return whether the grid of samples is kept."""
        return is_whole(self.enlargement)

    @property
    def bars(self) -> dict[str, int]:
        """Return bars in samples of the cell."""
        return {
            "top": self.picture.top,
            "bottom": self.cell[1] - self.picture.top - self.picture.height,
            "left": self.picture.left,
            "right": self.cell[0] - self.picture.left - self.picture.width,
        }

    @property
    def has_bars(self) -> bool:
        """Return whether any side has a bar."""
        return any(self.bars.values())

    @property
    def is_cut(self) -> bool:
        """Return whether part of the master is left out."""
        return self.crop.size != self.source

    @property
    def kept_share(self) -> float:
        """Return which share of the master's picture is shown."""
        return self.crop.width * self.crop.height / (self.source[0] * self.source[1])

    @property
    def zoom(self) -> float:
        """Return by how much the picture is larger than where it just fits the frame."""
        shape = Fraction(*self.source) * self.source_aspect
        whole = min(Fraction(self.cell[1]), self.cell[0] * self.stretch / shape)
        return float(self.scale[1] * self.source[1] / whole)

    @property
    def shape(self) -> Fraction:
        """Return the shown shape of (one eye's) frame."""
        return Fraction(*self.cell) * self.stretch

    @property
    def squash(self) -> float:
        """Return shown width ÷ right width of the picture; 1 but for rounding to samples."""
        shown = Fraction(*self.picture.size) * self.stretch
        return float(shown / (Fraction(*self.crop.size) * self.source_aspect))

    @property
    def free(self) -> Size:
        """Return by how many master samples the cut can be moved, across and down."""
        return self.source[0] - self.crop.width, self.source[1] - self.crop.height


def sizes_of(subject: Subject, spec: Specification, squeeze: str, packing: str) -> tuple[Size, ...]:
    """Return the sizes to choose from: the specification's, else those that follow."""
    if spec.rasters:
        return spec.rasters
    packed = packing_of(packing)
    assert packed is not None  # noqa: S101  (specifications are checked when they come in)
    if spec.projection == "equirectangular":
        return SPHERES
    eye = subject.eye
    bases = [eye]
    if squeeze == "resample" and subject.aspect != (1, 1):
        bases = [lowered(eye, subject.aspect), widened(eye, subject.aspect)]
    sizes = [packed.frame(base) for base in bases]
    sizes += [(2 * width, 2 * height) for width, height in sizes]
    most = spec.most_raster
    kept = [s for s in sizes if not most or (s[0] <= most[0] and s[1] <= most[1])]
    return tuple(kept) or ((most,) if most else tuple(sizes[:1]))


def layout_of(subject: Subject, spec: Specification, chosen: Choices) -> Layout:
    """Return the geometry that follows from choices.

    Raises ImpossibleError where the cut is larger than the master, with what would do instead.
    """
    packing = packing_of(chosen.packing)
    assert packing is not None  # noqa: S101  (choices are checked when they come in)
    aspect = subject.aspect if chosen.squeeze == "flag" else (1, 1)
    stretch = Fraction(*aspect) * packing.stretch()
    source_aspect = Fraction(*subject.aspect) * subject.packing.stretch()
    box, chroma = packing.eye(chosen.size), spec.chroma
    cell, crop, picture = _placing(subject.eye, source_aspect, box, stretch, chosen, chroma)
    return Layout(
        source=subject.eye,
        source_aspect=source_aspect,
        frame=_frame(packing, cell),
        cell=cell,
        aspect=aspect,
        stretch=stretch,
        crop=crop,
        picture=picture,
        chroma=chroma,
    )


def _frame(packing: Packing, cell: Size) -> Size:
    return cell[0] * packing.across, cell[1] * packing.down


def _placing(
    source: Size,
    source_aspect: Fraction,
    box: Size,
    stretch: Fraction,
    chosen: Choices,
    chroma: str,
) -> tuple[Size, Area, Area]:
    """Return cell, crop and picture; each mode of MODES is one way of it."""
    pixels, square = source_aspect.as_integer_ratio(), stretch.as_integer_ratio()
    whole = Area(0, 0, *source)
    shape = shown_shape(source, pixels)
    at = (chosen.across, chosen.down)
    if chosen.mode == "bars":
        return box, whole, fit_inside(shape, box, square, chroma)
    if chosen.mode == "fill":
        size = cut_to(source, pixels, shown_shape(box, square), chroma)
        if size != box:  # scaled, so the master's own grid of chroma does not bind
            size, chroma = cut_to(source, pixels, shown_shape(box, square), "4:4:4"), "4:4:4"
        return box, placed(source, size, at, chroma), Area(0, 0, *box)
    if chosen.mode == "cut":
        size = _full_size(source, source_aspect, box, stretch, chroma)
        return box, placed(source, size, at, chroma), Area(0, 0, *box)
    cell = _own_cell(shape / stretch, box, chroma)
    return cell, whole, Area(0, 0, *cell)


def _full_size(
    source: Size, source_aspect: Fraction, box: Size, stretch: Fraction, chroma: str
) -> Size:
    """Return the cut that fills a frame without any change of height."""
    width = to_step(box[0] * stretch / source_aspect, 2 if chroma != "4:4:4" else 1)
    if width > source[0] or box[1] > source[1]:
        raise ImpossibleError(
            f"A cut of {width}×{box[1]} at full size is larger than the master's "
            f"{source[0]}×{source[1]}: choose a smaller size, or fill the frame instead."
        )
    return width, box[1]


def _own_cell(ratio: Fraction, box: Size, chroma: str) -> Size:
    """Return the largest raster of a stored shape inside a box, sides to whole chroma samples."""
    if ratio >= Fraction(*box):
        return box[0], min(to_step(box[0] / ratio, 2 if chroma == "4:2:0" else 1), box[1])
    return min(to_step(box[1] * ratio, 2 if chroma != "4:4:4" else 1), box[0]), box[1]
