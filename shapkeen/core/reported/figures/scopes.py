"""Scopes of the shown moment, narrow enough to stand beside the picture that they are of."""

from ...rehearsed.scopes import CODES, Counts, Scope, ScopePair
from . import svg
from .axes import Axis, axes_attribute
from .gamut import cells
from .vector import targets
from .wave import MARKS_NITS, light_by_code

WIDTH = 320.0
LEFT, TOP = 38.0, 18.0
WAVE = (WIDTH - LEFT - 42, 128.0)
SQUARE, GAP, EDGE = 100.0, 8.0, 2.0
TICKS = (64, 256, 512, 768, 940)


def _rows(counts: Counts) -> tuple[tuple[int, ...], ...]:
    return tuple(tuple(row) for row in counts.tolist())


def scope_figures(scopes: ScopePair) -> list[str]:
    """Return the drawings of a moment, in the order that they are read in."""
    drawn = [waveform_figure("master", scopes.master), waveform_figure("export", scopes.export)]
    return [*drawn, squares_figure(scopes)]


def waveform_figure(name: str, scope: Scope) -> str:
    """Return one picture's waveform: codes at the left, light at the right where it is known."""
    wide, high = WAVE
    right = LEFT + wide

    def y_of(code: float) -> float:
        return TOP + high * (1 - code / CODES)

    parts = [svg.text(f"{name}: 10-bit luma code", LEFT, TOP - 6, class_="axis")]
    parts.append(svg.rect(LEFT, TOP, wide, high, class_="frame"))
    parts += cells(_rows(scope.wave), left=LEFT, top=TOP, size=high, width=wide)
    parts += [svg.line(LEFT, y_of(c), right, y_of(c), class_="limit") for c in (64, 940)]
    parts += [svg.text(str(code), LEFT - 5, y_of(code) + 4, class_="tick end") for code in TICKS]
    light = light_by_code(scope.coding)
    if light is not None:
        parts.append(svg.text("cd/m²", right + 4, TOP - 6, class_="axis"))
        last = TOP + high + 20
        for nits in MARKS_NITS:
            code = next((code for code, found in enumerate(light) if found >= nits), None)
            if code is None or not light[0] < nits or last - y_of(code) < 11:
                continue
            last = y_of(code)
            parts.append(svg.line(right, last, right + 4, last, class_="frame"))
            parts.append(svg.text(str(nits), right + 6, last + 4, class_="tick"))
    return svg.drawing(
        WIDTH,
        TOP + high + 6,
        *parts,
        label=f"Waveform of the {name}: luma codes from left to right",
        class_="sk-figure wide",
        data_axes=axes_attribute(
            Axis("at", "of the width", LEFT, right, lambda x: (x - LEFT) / wide, 2),
            Axis("code", "of 1023", TOP + high, TOP, lambda y: (TOP + high - y) / high * CODES),
        ),
    )


def squares_figure(scopes: ScopePair) -> str:
    """Return both pictures' vectors, and delivered over expected code, beside each other."""
    parts = []
    for panel, (name, scope) in enumerate((("master", scopes.master), ("export", scopes.export))):
        left = _left(panel)
        across, down = left + SQUARE / 2, TOP + SQUARE / 2
        parts += _square(f"{name}: Cb, Cr", scope.vector, left)
        parts.append(svg.line(left, down, left + SQUARE, down, class_="ideal"))
        parts.append(svg.line(across, TOP, across, TOP + SQUARE, class_="ideal"))
        place, coding = (left, TOP, SQUARE), scope.coding
        parts += targets(place, coding.matrix, full_range=coding.full_range)
    if scopes.tone is not None:
        left = _left(2)
        parts += _square("delivered by expected", scopes.tone, left)
        parts.append(svg.line(left, TOP + SQUARE, left + SQUARE, TOP, class_="ideal"))
    return svg.drawing(
        WIDTH,
        TOP + SQUARE + 4,
        *parts,
        label="Vectors of master and export by Cb and Cr; delivered code by expected code",
        class_="sk-figure wide",
        data_axes=axes_attribute(
            Axis("across", "", EDGE, EDGE + SQUARE, lambda at: (at - EDGE) / SQUARE * CODES),
            Axis("up", "of 1023", TOP + SQUARE, TOP, lambda y: (TOP + SQUARE - y) / SQUARE * CODES),
        ),
        data_period=f"{SQUARE + GAP:g}",
    )


def _left(panel: int) -> float:
    return EDGE + panel * (SQUARE + GAP)


def _square(name: str, counts: Counts, left: float) -> list[str]:
    frame = svg.rect(left, TOP, SQUARE, SQUARE, class_="frame")
    named = svg.text(name, left, TOP - 6, class_="axis")
    return [named, frame, *cells(_rows(counts), left=left, top=TOP, size=SQUARE)]
