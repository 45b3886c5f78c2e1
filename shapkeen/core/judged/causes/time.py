"""Acts on time: frames that are gone, shown twice, or cut off at the ends."""

from collections.abc import Iterator, Set

from ...measured import TimeFindings
from ..evidence import Evidence
from ..model import Cause
from ..pairing import is_frame_for_frame

STILL = 0.5
"""Half of the frames like their neighbours: then which one is missing is a guess."""


def explain_frames(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield frames-dropped, frames-repeated and trimmed, where every frame could be matched."""
    timing = evidence.survey.timing if evidence.survey else None
    if "frames" not in broken or timing is None or not is_frame_for_frame(evidence):
        return
    yield from _explain_gaps(timing)
    if timing.trimmed_in or timing.trimmed_out:
        yield _trimmed(timing)


def _explain_gaps(timing: TimeFindings) -> Iterator[Cause]:
    sure = 0.95 if timing.still_share < STILL else 0.7
    if timing.dropped:
        first = timing.dropped[0]
        yield Cause(
            id="frames-dropped",
            traits=("frames",),
            strength=sure,
            values={"count": timing.missing, "at": first.master_frame},
            why=f"{timing.missing} of the master's frames never came out, the first at frame "
            f"{first.master_frame} of the master: movement jumps there.",
            remedy="re-export",
            cure="Render to a mezzanine first, so that the encoder need not keep up with playback, "
            "and export again at the master's own rate.",
        )
    if timing.repeated:
        first = timing.repeated[0]
        yield Cause(
            id="frames-repeated",
            traits=("frames",),
            strength=sure,
            values={"count": timing.shown_again, "at": first.export_frame},
            why=f"{timing.shown_again} frames are shown again in place of going on, the first at "
            f"frame {first.export_frame} of the export: movement halts there.",
            remedy="re-export",
            cure="Set the timeline and the export to the master's own rate, check retimed shots, "
            "and export again.",
        )


def _trimmed(timing: TimeFindings) -> Cause:
    start, end = timing.trimmed_in, timing.trimmed_out
    at = "both ends" if start and end else "start" if start else "end"
    parts = [f"{n} at the {where}" for n, where in ((start, "start"), (end, "end")) if n]
    return Cause(
        id="trimmed",
        traits=("frames",),
        strength=0.95,
        values={"count": start + end, "at": at, "start": start, "end": end},
        why=f"Frames are cut off: {' and '.join(parts)}.",
        remedy="re-export",
        cure="Clear the marked in and out points, or set them to the whole, and export again; "
        "or promise the part that is meant.",
    )
