"""What of a comparison can be played, both files in step."""

import json
from fractions import Fraction

from ...core.judged import Comparison
from ...core.judged.evidence import clock_of, shown_rate
from ...core.measured import PairSurvey


def pairs_of(survey: PairSurvey) -> list[tuple[int, int]]:
    """Return the pairs of frames that can be played, master's and export's, in order.

    Every frame that was compared, not the moments of the strip, which is thinned for long files.
    """
    if survey.series:
        return survey.series.frames()
    return [(one.master_frame, one.export_frame) for one in survey.pairs]


def rate_of(comparison: Comparison) -> Fraction:
    """Return the export's rate."""
    return shown_rate(comparison.export)[0] or Fraction(25)


def timecode_of(comparison: Comparison) -> str:
    """Return how the export's frames are counted as JSON, for timecode.js: its own, else from 0."""
    start = clock_of(comparison.export)
    told = {"frame": start.frame, "counted": start.counted, "drop": start.drop_frame}
    return json.dumps(told)


def played(comparison: Comparison) -> dict[str, object]:
    """Return what a page needs to play: frames from picture to picture, their rate, the last."""
    from ...core.rehearsed.proxy import proxy_step

    rate = rate_of(comparison)
    step = proxy_step(rate)
    pairs = pairs_of(comparison.survey)
    return {
        "step": step,
        "proxy_rate": float(rate / step),
        "last": pairs[-1][1] if pairs else 0,
    }
