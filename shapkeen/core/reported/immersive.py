"""What slips tell of spheres and of two eyes, beside what their traits' verdicts say."""

from collections.abc import Iterator, Sequence

from ..declared import Declaration
from ..geometry.packing import parts_of, way_of
from ..geometry.parallax import (
    CHILDREN_MM,
    COMFORT_DEG,
    INTEROCULAR_MM,
    Screen,
    samples_from_percent,
)
from ..geometry.sphere import HALF_DEG, WHOLE_DEG, samples_a_degree, samples_in_view, window_width
from ..judged import Comparison
from ..measured import Horizon, ParallaxUse, StereoMoment
from ..promised import stated_by

Line = tuple[str, str, str]
"""Who says what, and how."""
VIEW_DEG = 90.0


def eye_width(comparison: Comparison) -> int:
    """Return how many samples wide one eye's picture is in the export."""
    width = comparison.survey.export_raster[0]
    eyes = comparison.survey.eyes
    told = way_of(eyes.packings[1]) if eyes else None
    return width // parts_of(told[0])[0] if told else width


def degrees_across(kind: str | None, declaration: Declaration) -> float:
    """Return how many degrees a sphere's picture covers across.

    kind: what the picture shows to be; where it shows nothing, what the file says counts.
    """
    said = stated_by(declaration, "projection")
    layout = kind or (said[1].value if said else None)
    return HALF_DEG if layout == "half-equirectangular" else WHOLE_DEG


def sphere_lines(comparison: Comparison) -> Iterator[Line]:
    """Yield what the picture shows of a sphere, and what a viewer gets of it."""
    found = comparison.survey.sphere
    if found is None:
        return
    signs = found.signs[1]
    if signs.seam is not None and signs.stretch is not None:
        yield (
            "signs",
            f"edges {signs.seam:.1f}, stretch {signs.stretch:.2f}",
            "step across the joined edges ÷ ordinary (1 = closed); structure across at the poles ÷ "
            "at the equator (1 = flat, a sphere about 0.4)",
        )
    yield (
        "horizon",
        _lean(found.horizons[1]),
        f"by upright lines; master: {_lean(found.horizons[0])}",
    )
    if found.kinds[1] != "cubemap":
        degrees = degrees_across(found.kinds[1], comparison.export)
        yield resolution_line(eye_width(comparison), degrees=degrees)


def resolution_line(width: int, view_deg: float = VIEW_DEG, degrees: float = WHOLE_DEG) -> Line:
    """Return what a viewer really gets of a sphere's picture of this width and reach."""
    mean = samples_in_view(width, view_deg, degrees)
    middle = window_width(width, view_deg, degrees)
    return (
        "viewer gets",
        f"{samples_a_degree(width, degrees):.1f} samples a degree",
        f"a window of {view_deg:.0f}° shows as much as a picture {mean:.0f} to {middle:.0f} "
        "samples wide",
    )


def _lean(horizon: Horizon | None) -> str:
    if horizon is None:
        return "cannot tell"
    pitch, roll = (round(angle, 1) + 0.0 for angle in (horizon.pitch, horizon.roll))
    return f"pitch {pitch:+.1f}°, roll {roll:+.1f}°"


def eyes_lines(comparison: Comparison, screen: Screen) -> Iterator[Line]:
    """Yield how far apart both eyes see things, on a screen, and when that is worst."""
    found = comparison.survey.eyes
    if found is None or not found.moments:
        return
    for side, name in ((1, "parallax"), (0, "master's")):
        uses = [use for one in found.moments if (use := one.parallax[side]) is not None]
        if uses:
            yield (name, *parallax_words(uses, screen))
    told = [one for one in found.moments if one.parallax[1] is not None]
    if told:
        yield ("worst", *_worst(told, screen))
    yield ("limits", *limit_words(screen, eye_width(comparison)))


def limit_words(screen: Screen, width: int) -> tuple[str, str]:
    """Return how far behind the screen a thing may stand, in % and in samples of an eye's width."""
    most = screen.divergence_percent
    low, high = screen.comfort
    samples, children = samples_from_percent(most, width), screen.percent(CHILDREN_MM)
    return (
        f"at most {most:+.2f} % behind",
        f"parallel eyes, {INTEROCULAR_MM:g} mm apart: {samples:.0f} of {width} samples; "
        f"children's, {CHILDREN_MM:g} mm: {children:+.2f} %. Comfort zone {low:+.2f} to "
        f"{high:+.2f} % ({COMFORT_DEG:g}°). Common practice",
    )


def parallax_words(uses: Sequence[ParallaxUse], screen: Screen) -> tuple[str, str]:
    """Return the reach of parallax in % and mm, and where things seem to stand."""
    near, far = min(use.nearest for use in uses), max(use.farthest for use in uses)
    behind = screen.seen_at_mm(far) / 1000
    seen = f"{screen.seen_at_mm(near) / 1000:.2f} m to "
    seen += "beyond parallel" if behind == float("inf") else f"{behind:.2f} m"
    farthest = max(uses, key=lambda use: abs(use.vertical)).vertical
    drop = round(farthest, 2) + 0.0  # no minus before nought
    on = f"{screen.mm(near):+.1f} to {screen.mm(far):+.1f} mm on {screen.width_mm / 1000:g} m"
    angles = f"{screen.angle_deg(near):+.1f}° to {screen.angle_deg(far):+.1f}°"
    return (
        f"{near:+.2f} to {far:+.2f} % of width",
        f"{on}, {angles}, seen at {seen}; vertical {drop:+.2f} % of height",
    )


def _worst(told: Sequence[StereoMoment], screen: Screen) -> tuple[str, str]:
    def part(one: StereoMoment, name: str) -> float:
        return float(getattr(one.parallax[1], name))

    nearest = min(told, key=lambda one: part(one, "nearest"))
    farthest = max(told, key=lambda one: part(one, "farthest"))
    low, high = screen.comfort
    outside = sum(part(one, "nearest") < low or part(one, "farthest") > high for one in told)
    return (
        f"frames {nearest.export_frame} and {farthest.export_frame}",
        f"nearest {part(nearest, 'nearest'):+.2f} %, farthest {part(farthest, 'farthest'):+.2f} %; "
        f"{outside} of {len(told)} moments leave the comfort zone",
    )
