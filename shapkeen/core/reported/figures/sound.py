"""Sound along time: how loud it is beside the master's, and how far from its picture."""

from collections.abc import Callable, Sequence

from ...measured import SoundMoment, SoundTrack
from . import svg
from .axes import Axis, axes_attribute

WIDTH, HEIGHT, LEFT, TOP = 300.0, 200.0, 46.0, 10.0
SOFTEST, LOUDEST = -60.0, 0.0
MARKS_LUFS = (-60, -50, -40, -30, -23, -14, -6, 0)
LEAST_OFF_MS = 100.0
"""The drawn reach round no delay: limits of lip sync always lie within."""

Point = tuple[float, float]


def loudness_y(lufs: float) -> float:
    """Return the height of a loudness on the axis, SOFTEST to LOUDEST."""
    within = min(max(lufs, SOFTEST), LOUDEST)
    return TOP + HEIGHT * (LOUDEST - within) / (LOUDEST - SOFTEST)


def loudness_figure(
    export: SoundTrack,
    *,
    master: SoundTrack | None,
    promised_lufs: float | None,
    gaps: Sequence[tuple[float, float]] = (),
) -> str:
    """Return momentary loudness along time, the master's drawn thin behind.

    promised_lufs: a line for the loudness of the whole. gaps: seconds that dropped out, shaded.
    """
    span = max(export.seconds, master.seconds if master else 0.0) or 1.0
    x = _place(0.0, span)
    parts = [svg.rect(LEFT, TOP, WIDTH, HEIGHT, class_="frame")]
    for first, last in gaps:
        parts.append(svg.rect(x(first), TOP, x(last) - x(first), HEIGHT, class_="lost-area"))
        parts.append(svg.text("silent", x(first) + 3, TOP + 14, class_="axis"))
    for lufs in MARKS_LUFS:
        y = loudness_y(lufs)
        parts.append(svg.line(LEFT - 4, y, LEFT, y, class_="frame"))
        parts.append(svg.text(f"{lufs:g}", LEFT - 7, y + 4, class_="tick end"))
    if promised_lufs is not None:
        y = loudness_y(promised_lufs)
        parts.append(svg.line(LEFT, y, LEFT + WIDTH, y, class_="limit"))
        parts.append(
            svg.text(f"promised {promised_lufs:g}", LEFT + WIDTH - 4, y - 4, class_="tick end")
        )
    if master is not None:
        parts.append(svg.path(_line(master, x), class_="series of-master"))
    parts.append(svg.path(_line(export, x), class_="series brightest"))
    parts.append(svg.text("LUFS", LEFT + WIDTH - 4, TOP + HEIGHT - 6, class_="axis end"))
    parts.append(_ends(span))
    told = "no sound" if export.integrated_lufs is None else f"{export.integrated_lufs:g} LUFS"
    return svg.drawing(
        LEFT + WIDTH + 10,
        TOP + HEIGHT + 24,
        *parts,
        label=f"Loudness along time: {told} over the whole",
        class_="sk-figure",
        data_axes=axes_attribute(
            _time_axis(0.0, span),
            Axis("loudness", "LUFS", TOP + HEIGHT, TOP, _lufs_at, 1),
        ),
    )


def _lufs_at(y: float) -> float:
    return LOUDEST - (y - TOP) / HEIGHT * (LOUDEST - SOFTEST)


def _line(track: SoundTrack, x: Callable[[float], float]) -> list[Point]:
    points = [(x(at), loudness_y(lufs)) for at, lufs in track.series]
    return points if len(points) > 1 else [(LEFT, TOP + HEIGHT), (LEFT + WIDTH, TOP + HEIGHT)]


def sync_figure(
    moments: Sequence[SoundMoment], *, early_ms: float, late_ms: float, seconds: float
) -> str:
    """Return how late sound is heard after its picture, along time; limits are lines.

    moments: in order of time, one or more. early_ms, late_ms: what goes unnoticed.
    """
    off = [((one.late_s - one.picture_s) * 1000, one.master_s) for one in moments]
    reach = max(LEAST_OFF_MS, *(abs(late) * 1.2 for late, _ in off))
    x = _place(0.0, seconds or 1.0)

    def y(late: float) -> float:
        return TOP + HEIGHT / 2 * (1 - late / reach)

    def late_at(place: float) -> float:
        return (1 - (place - TOP) * 2 / HEIGHT) * reach

    parts = [svg.rect(LEFT, TOP, WIDTH, HEIGHT, class_="frame")]
    for late, words in ((late_ms, "late"), (-early_ms, "early")):
        parts.append(svg.line(LEFT, y(late), LEFT + WIDTH, y(late), class_="limit"))
        above = -4 if late > 0 else 13
        name = f"{abs(late):g} ms {words}"
        parts.append(svg.text(name, LEFT + WIDTH - 4, y(late) + above, class_="tick end"))
    parts.append(svg.line(LEFT, y(0), LEFT + WIDTH, y(0), class_="frame"))
    marks = ((f"{-reach:+.0f}", -reach), ("0", 0.0), (f"{reach:+.0f}", reach))
    parts += [svg.text(word, LEFT - 7, y(at) + 4, class_="tick end") for word, at in marks]
    points = [(x(at), y(late)) for late, at in off]
    ends = [(LEFT, points[0][1]), *points, (LEFT + WIDTH, points[-1][1])]
    parts.append(svg.path(ends, class_="series brightest"))
    parts.append(svg.text("ms behind the picture", LEFT + 4, TOP + HEIGHT - 6, class_="axis"))
    parts.append(_ends(seconds))
    return svg.drawing(
        LEFT + WIDTH + 10,
        TOP + HEIGHT + 24,
        *parts,
        label=f"Sound behind its picture: {off[0][0]:+.0f} to {off[-1][0]:+.0f} ms",
        class_="sk-figure",
        data_axes=axes_attribute(
            _time_axis(0.0, seconds or 1.0),
            Axis(
                "behind", "ms", TOP + HEIGHT, TOP, lambda at: (1 - (at - TOP) * 2 / HEIGHT) * reach
            ),
        ),
    )


def _place(start: float, span: float) -> Callable[[float], float]:
    return lambda second: LEFT + min(max((second - start) / span, 0.0), 1.0) * WIDTH


def _time_axis(start: float, span: float) -> Axis:
    return Axis("at", "s", LEFT, LEFT + WIDTH, lambda x: start + (x - LEFT) / WIDTH * span, 2)


def _ends(span: float) -> str:
    return svg.text(
        f"0.00 s to {span:.2f} s", LEFT + WIDTH / 2, TOP + HEIGHT + 16, class_="axis middle"
    )
