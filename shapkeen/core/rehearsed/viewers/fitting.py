"""How a picture lies on a screen: bars, crop, scale, and how fine it is in the viewer's eye.

Ordinary geometry. Angles: 2 atan(w / 2d).
"""

from dataclasses import dataclass
from math import atan, degrees

from ...geometry.framing import Size
from ...geometry.packing import MONO, parts_of, shown_eye, way_of
from ...geometry.sphere import HALF_DEG, WHOLE_DEG
from .screens import VIEW_DEG, Screen

EYE_SAMPLES = 60
"""Samples a degree that a good eye tells apart: one minute of arc each. Common practice."""
SLIVER = 2
"""Samples: no bar, but what a panel's odd size leaves."""
CINEMA_DEG = 60.0
"""Across a flat picture in a headset: it hangs there as in a cinema."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Layout:
    """A rendition as its player takes it. aspect: of its samples. None: a flat picture, one eye."""

    raster: Size
    aspect: Size = (1, 1)
    projection: str | None = None
    stereo: str | None = None

    @property
    def packing(self) -> tuple[str, bool]:
        """Return how eyes share the picture, and whether the left one comes first."""
        return way_of(self.stereo) or (MONO, True)

    @property
    def eye(self) -> Size:
        """Return the samples of one eye."""
        across, down = parts_of(self.packing[0])
        return self.raster[0] // across, self.raster[1] // down

    @property
    def shape(self) -> float:
        """Return the shape at which an eye is shown, width ÷ height."""
        width, height = self.eye
        own = width * self.aspect[0] / (height * self.aspect[1])
        return shown_eye(own, self.packing[0])

    @property
    def across_deg(self) -> float | None:
        """Return what a sphere covers across, in degrees; None for flat pictures."""
        if self.projection == "equirectangular":
            return WHOLE_DEG
        return HALF_DEG if self.projection == "half-equirectangular" else None


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """A picture on a screen.

    left, top, width, height: its place, in the screen's samples; it may reach beyond the screen,
    which cuts it. scale: screen samples to one of the picture, across. cut: the share of the
    picture that is not shown. angle_deg: across the shown picture. samples_a_degree: of the
    rendition, in the middle. is_window: whether only a part of a sphere is shown at a time.
    """

    screen: Size
    left: int
    top: int
    width: int
    height: int
    scale: float
    cut: float
    angle_deg: float
    samples_a_degree: float
    is_window: bool = False

    @property
    def bars(self) -> dict[str, int]:
        """Return bars by side, in the screen's samples; those that there are."""
        sides = {
            "left": self.left,
            "top": self.top,
            "right": self.screen[0] - self.left - self.width,
            "bottom": self.screen[1] - self.top - self.height,
        }
        return {side: size for side, size in sides.items() if size > SLIVER}

    @property
    def is_finer_than_eyes(self) -> bool:
        """Return whether samples are smaller than a good eye tells apart."""
        return self.samples_a_degree > EYE_SAMPLES


def fit_on(screen: Screen, layout: Layout) -> Fit:
    """Return how a rendition lies on a screen."""
    if layout.across_deg is not None:
        return _window(screen, layout, layout.across_deg)
    if screen.kind == "headset":
        return _cinema(screen, layout)
    return _flat(screen, layout)


def _flat(screen: Screen, layout: Layout) -> Fit:
    width, height = placed_in(screen.raster, layout.shape, fills=screen.fills)
    shown = min(width, screen.raster[0])
    angle = angle_deg(screen.width_m * shown / screen.raster[0], screen.distance_m)
    samples = layout.eye[0] * shown / width
    return Fit(
        screen=screen.raster,
        left=(screen.raster[0] - width) // 2,
        top=(screen.raster[1] - height) // 2,
        width=width,
        height=height,
        scale=width / layout.eye[0],
        cut=cut_share(screen.raster, (width, height)),
        angle_deg=angle,
        samples_a_degree=samples / angle,
    )


def placed_in(screen: Size, shape: float, *, fills: float) -> Size:
    """Return a picture's size on a screen: as large as it fits, or filling it.

    fills: the largest share of a side that may be cut off for that.
    """
    wide, high = screen
    fitted = (wide, round(wide / shape)) if wide / high <= shape else (round(high * shape), high)
    filled = (round(high * shape), high) if wide / high <= shape else (wide, round(wide / shape))
    return filled if 0 < cut_share(screen, filled) <= fills else fitted


def cut_share(screen: Size, placed: Size) -> float:
    """Return the share of a picture that lies beyond a screen."""
    seen = min(placed[0], screen[0]) * min(placed[1], screen[1])
    return 1 - seen / (placed[0] * placed[1])


def angle_deg(width_m: float, distance_m: float) -> float:
    """Return how many degrees a width is seen under."""
    return degrees(2 * atan(width_m / (2 * distance_m)))


def _window(screen: Screen, layout: Layout, across_deg: float) -> Fit:
    density = layout.eye[0] / across_deg
    angle = VIEW_DEG
    if screen.kind != "headset":
        angle = angle_deg(screen.width_m, screen.distance_m)
        # The screen shows VIEW_DEG of the sphere, however small it is in the eye itself.
        density *= VIEW_DEG / angle
    return Fit(
        screen=screen.raster,
        left=0,
        top=0,
        width=screen.raster[0],
        height=screen.raster[1],
        scale=screen.raster[0] / (layout.eye[0] * VIEW_DEG / across_deg),
        cut=0.0,
        angle_deg=angle,
        samples_a_degree=density,
        is_window=True,
    )


def _cinema(screen: Screen, layout: Layout) -> Fit:
    width = round(screen.raster[0] * CINEMA_DEG / VIEW_DEG)
    height = round(width / layout.shape)
    if height > screen.raster[1]:
        height, width = screen.raster[1], round(screen.raster[1] * layout.shape)
    angle = CINEMA_DEG * width / round(screen.raster[0] * CINEMA_DEG / VIEW_DEG)
    return Fit(
        screen=screen.raster,
        left=(screen.raster[0] - width) // 2,
        top=(screen.raster[1] - height) // 2,
        width=width,
        height=height,
        scale=width / layout.eye[0],
        cut=0.0,
        angle_deg=angle,
        samples_a_degree=layout.eye[0] / angle,
    )
