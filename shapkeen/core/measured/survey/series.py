"""The likeness of every frame in short, and thinned for drawing."""

from dataclasses import replace

import numpy as np

from ..model import LikenessSeries, LikenessSummary, PairSurvey
from ..model.likeness import Table

MOST_DRAWN = 4000
"""Rows that are kept for drawing: a screen has no more columns."""


def summary_of(series: LikenessSeries) -> LikenessSummary | None:
    """Return a series in short; None for an empty one."""
    if not len(series):
        return None
    ssim, psnr = series.column("ssim"), series.column("psnr")
    worst = int(ssim.argmin())
    seen, places = (_known(series, name) for name in ("delta_e", "delta_e_worst"))
    return LikenessSummary(
        frames=len(series),
        ssim_mean=float(ssim.mean()),
        psnr_mean=float(psnr.mean()),
        ssim_worst=float(ssim[worst]),
        worst_frame=series[worst].export_frame,
        delta_e=float(seen.mean()) if len(seen) else None,
        delta_e_worst=float(places.max()) if len(places) else None,
    )


def _known(series: LikenessSeries, name: str) -> Table:
    column = series.column(name)
    return column[~np.isnan(column)]


def unlikeness(series: LikenessSeries) -> Table:
    """Return by how much each frame differs (n,): in ΔE, or by SSIM where colours are unknown."""
    seen = series.column("delta_e")
    return np.where(np.isnan(seen), 1 - series.column("ssim"), seen)


def thinned_for_drawing(survey: PairSurvey, most: int = MOST_DRAWN) -> PairSurvey:
    """Return a survey whose series has at most so many rows, nearly.

    Of each stretch the frame that differs least and the one that differs most, in their order: what
    stands out in a drawing of every frame stands out in one of these.
    """
    series = survey.series
    if len(series) <= most:
        return survey
    step = -(-2 * len(series) // most)
    off = unlikeness(series)
    rows: list[int] = []
    for start in range(0, len(series), step):
        stretch = off[start : start + step]
        rows += sorted({start + int(stretch.argmin()), start + int(stretch.argmax())})
    return replace(survey, series=LikenessSeries(series.table[rows]), series_step=step)
