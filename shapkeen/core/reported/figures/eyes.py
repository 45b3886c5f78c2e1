"""Eyes: parallax against the comfort zone of a screen, moment by moment, and vertical parallax."""

from collections.abc import Callable, Sequence

from ...geometry.parallax import MOST_VERTICAL_PERCENT, Screen
from ...measured import ParallaxUse, StereoMoment
from ...measured.model.eyes import PARALLAX_REACH, PARALLAX_STEP
from . import svg
from .axes import Axis, axes_attribute

WIDTH, LEFT, TOP = 300.0, 46.0, 34.0
HISTOGRAM, SERIES, GAP = 110.0, 84.0, 44.0
Place = Callable[[float], float]
"""From parallax in % of the width to a place across."""
LEAST_REACH, AROUND = 3.0, 0.6
"""The axis reaches at least so many % of the width, and so much beyond what there is."""


def eyes_figure(moments: Sequence[StereoMoment], screen: Screen) -> str:
    """Return the drawing of all moments for a screen; empty where no parallax was matched."""
    uses = [[use for one in moments if (use := one.parallax[side])] for side in (0, 1)]
    if not uses[1]:
        return ""
    reach = _reach([*uses[0], *uses[1]], screen)
    scale = WIDTH / (2 * reach)

    def place(percent: float) -> float:
        return LEFT + (min(max(percent, -reach), reach) + reach) * scale

    parts = [*_zone(screen, place), *_counts(uses[0], place, "series of-master")]
    # Goes along with the eyes when convergence is slid.
    parts.append(svg.element("g", *_counts(uses[1], place, "series"), data_scale=f"{scale:.4f}"))
    parts += _scale(screen, place, reach)
    below = TOP + HISTOGRAM + GAP
    parts += _series(moments, place, below, scale)
    nearest = min(use.nearest for use in uses[1])
    farthest = max(use.farthest for use in uses[1])
    label = (
        f"Eyes: parallax {nearest:+.2f} to {farthest:+.2f} % of the width, "
        f"{screen.mm(nearest):+.0f} to {screen.mm(farthest):+.0f} mm"
    )
    return svg.drawing(
        LEFT + WIDTH + 14,
        below + SERIES + 22,
        *parts,
        label=label,
        class_="sk-figure eyes",
        data_axes=axes_attribute(
            Axis("parallax", "%", LEFT, LEFT + WIDTH, lambda x: (x - LEFT) / scale - reach, 2),
            Axis("of the most", "%", TOP + HISTOGRAM, TOP, _share_at, 0),
        ),
    )


def _sliding(parts: Sequence[str], scale: float, top: float, height: float) -> str:
    """Return parts that scripts move along by data-scale to 1 %, kept within their frame."""
    return svg.element(
        "svg",
        svg.element("g", *parts, data_scale=f"{scale:.4f}"),
        x=LEFT,
        y=top,
        width=WIDTH,
        height=height,
        viewBox=f"{LEFT:g} {top:g} {WIDTH:g} {height:g}",
    )


def _share_at(y: float) -> float:
    return (TOP + HISTOGRAM - y) / (0.94 * HISTOGRAM) * 100


def _reach(uses: Sequence[ParallaxUse], screen: Screen) -> float:
    most = max(max(abs(use.nearest), abs(use.farthest)) for use in uses)
    return min(max(most, LEAST_REACH, *map(abs, screen.comfort)) + AROUND, PARALLAX_REACH)


def _zone(screen: Screen, place: Place) -> list[str]:
    """Return the comfort zone, the screen, and where eyes would have to turn outwards."""
    near, far = screen.comfort
    parts = [
        svg.rect(place(near), TOP, place(far) - place(near), HISTOGRAM, class_="picture"),
        svg.rect(LEFT, TOP, WIDTH, HISTOGRAM, class_="frame"),
        svg.line(place(0), TOP - 4, place(0), TOP + HISTOGRAM, class_="ideal"),
        svg.text("in front", place(0) - 8, TOP - 8, class_="axis end"),
        svg.text("screen", place(0), TOP - 20, class_="axis middle"),
        svg.text("behind", place(0) + 8, TOP - 8, class_="axis"),
        svg.text("comfort", place(near) + 4, TOP + 12, class_="tick"),
    ]
    limit = screen.divergence_percent
    if place(limit) < LEFT + WIDTH:
        x = place(limit)
        parts.append(svg.line(x, TOP, x, TOP + HISTOGRAM, class_="mark"))
        parts.append(svg.text("parallel", x - 4, TOP + 12, class_="tick end"))
    return parts


def _counts(uses: Sequence[ParallaxUse], place: Place, class_: str) -> list[str]:
    if not uses:
        return []
    total = [sum(column) for column in zip(*(use.counts for use in uses), strict=True)]
    most = max(total) or 1
    points = [
        (
            place((index + 0.5) * PARALLAX_STEP - PARALLAX_REACH),
            TOP + HISTOGRAM * (1 - 0.94 * count / most),
        )
        for index, count in enumerate(total)
        if total[max(index - 1, 0)] or count or total[min(index + 1, len(total) - 1)]
    ]
    return [svg.path(points, class_=class_)] if len(points) > 1 else []


def _scale(screen: Screen, place: Place, reach: float) -> list[str]:
    parts = []
    step = 1 if reach <= 5 else 2
    for percent in range(-int(reach) // step * step, int(reach) + 1, step):
        if abs(percent) > reach:
            continue
        x, y = place(percent), TOP + HISTOGRAM
        parts.append(svg.line(x, y, x, y + 4, class_="frame"))
        parts.append(
            svg.text(f"{percent:+d} %" if percent else "0", x, y + 15, class_="tick middle")
        )
        mm = f"{screen.mm(percent):+.0f}" if percent else "mm"
        parts.append(svg.text(mm, x, y + 27, class_="tick middle"))
    return parts


def _series(moments: Sequence[StereoMoment], place: Place, top: float, scale: float) -> list[str]:
    """Return nearest to farthest of each moment as a bar, time running down; worst ones named."""
    told = [(one.time_s, one.parallax[1]) for one in moments if one.parallax[1] is not None]
    first, last = moments[0].time_s, moments[-1].time_s
    span = (last - first) or 1.0
    parts = [
        svg.rect(LEFT, top, WIDTH, SERIES, class_="frame"),
        svg.line(place(0), top, place(0), top + SERIES, class_="ideal"),
        svg.text("each moment, nearest to farthest", LEFT, top - 5, class_="axis"),
    ]
    bars: list[str] = []
    for time, use in told:
        y = top + 6 + (time - first) / span * (SERIES - 12)
        bars.append(svg.line(place(use.nearest), y, place(use.farthest), y, class_="series"))
        steep = abs(use.vertical) > MOST_VERTICAL_PERCENT
        bars.append(
            svg.element(
                "circle", cx=place(use.middle), cy=y, r=2.5, class_="mark" if steep else "density"
            )
        )
    parts.append(_sliding(bars, scale, top, SERIES))
    for time, y in ((first, top + 9), (last, top + SERIES - 2)):
        parts.append(svg.text(f"{time:.1f} s", LEFT - 6, y, class_="tick end"))
    return parts
