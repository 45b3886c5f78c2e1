"""Where along the film a rendition suffers: a strip of its measured frames."""

from collections.abc import Sequence

from . import svg

WIDTH, HEIGHT = 260.0, 26.0
MOST_LOSS = 0.1
"""1 − SSIM at the strip's top: more than that is as bad to the eye."""
LEAST_WIDE = 1.5


def suffering_strip(
    series: Sequence[tuple[int, float]], *, frames: int, excerpts: Sequence[tuple[int, int]]
) -> str:
    """Return the strip: as high as each measured frame's 1 − SSIM, the worst marked.

    series: (the film's frame, SSIM). frames: the film's. excerpts: first and end of what was tried.
    """
    whole = max(frames, 1)
    parts = [
        svg.rect(WIDTH * first / whole, 0, WIDTH * (end - first) / whole, HEIGHT, class_="tried")
        for first, end in excerpts
    ]
    if not series:
        return svg.drawing(WIDTH, HEIGHT, *parts, label="Nothing measured", class_="sk-suffering")
    wide = max(WIDTH / whole, LEAST_WIDE)
    worst = min(series, key=lambda one: one[1])
    for frame, ssim in series:
        high = max(min((1 - ssim) / MOST_LOSS, 1.0) * HEIGHT, 1.0)
        kind = "worst" if frame == worst[0] else "loss"
        x = WIDTH * (frame + 0.5) / whole - wide / 2
        parts.append(svg.rect(x, HEIGHT - high, wide, high, class_=kind))
    parts.append(svg.line(0, HEIGHT - 0.5, WIDTH, HEIGHT - 0.5, class_="ground"))
    label = f"1 − SSIM along the film, 0 to {MOST_LOSS:g}; worst {1 - worst[1]:.3f} at {worst[0]}"
    return svg.drawing(WIDTH, HEIGHT, *parts, label=label, class_="sk-suffering")
