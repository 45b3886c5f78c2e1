"""The likeness of every frame in short, and thinned for drawing."""

from collections.abc import Sequence
from dataclasses import replace

from ..model import FrameLikeness, LikenessSummary, PairSurvey

MOST_DRAWN = 4000
"""Rows that are kept for drawing: a screen has no more columns."""


def summary_of(series: Sequence[FrameLikeness]) -> LikenessSummary | None:
    """Return a series in short; None for an empty one."""
    if not series:
        return None
    worst = min(series, key=lambda row: row.ssim)
    seen = [row.delta_e for row in series if row.delta_e is not None]
    places = [row.delta_e_worst for row in series if row.delta_e_worst is not None]
    return LikenessSummary(
        frames=len(series),
        ssim_mean=sum(row.ssim for row in series) / len(series),
        psnr_mean=sum(row.psnr for row in series) / len(series),
        ssim_worst=worst.ssim,
        worst_frame=worst.export_frame,
        delta_e=sum(seen) / len(seen) if seen else None,
        delta_e_worst=max(places) if places else None,
    )


def unlikeness(row: FrameLikeness) -> float:
    """Return by how much a frame differs: in ΔE, or where colours are not known, by SSIM."""
    return row.delta_e if row.delta_e is not None else 1 - row.ssim


def thinned_for_drawing(survey: PairSurvey, most: int = MOST_DRAWN) -> PairSurvey:
    """Return a survey whose series has at most so many rows, nearly.

    Of each stretch the frame that differs least and the one that differs most, in their order: what
    stands out in a drawing of every frame stands out in one of these.
    """
    series = survey.series
    if len(series) <= most:
        return survey
    step = -(-2 * len(series) // most)
    rows: list[FrameLikeness] = []
    for start in range(0, len(series), step):
        stretch = series[start : start + step]
        ends = {
            min(stretch, key=unlikeness).export_frame,
            max(stretch, key=unlikeness).export_frame,
        }
        rows += [row for row in stretch if row.export_frame in ends]
    return replace(survey, series=tuple(rows), series_step=step)
