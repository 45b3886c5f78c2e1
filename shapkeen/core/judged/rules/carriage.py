"""Carriage: whether all of it decodes, where the index stands, what the declared level carries."""

from ...geometry.levels import LEVELS, Excess, excesses, smallest_level
from ...measured import Damage
from ..evidence import Evidence, shown_rate
from ..model import BENT, KEPT, LOST, Measure, Ruling, bent, kept, lost, unproven


def judge_intact(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether every coded picture decodes without an error or a guess."""
    survey = evidence.survey
    if survey is None:
        return unproven("The file could not be decoded through.")
    damage, before = survey.export_statistics.damage, survey.master_statistics.damage
    measure = Measure("broken pictures", damage.count, "", 0)
    if damage.count:
        return lost(
            damage_words(damage),
            picture=f"{damage.count} broken",
            measure=measure,
            picture_state=LOST,
        )
    text = "Every coded picture decodes without an error."
    if before.count:
        text += f" The master's do not: {damage_words(before)}"
    return kept(text, picture="whole", measure=measure, picture_state=KEPT)


def damage_words(damage: Damage) -> str:
    """Return how many pictures are broken, the first of them, and how far that is seen."""
    many = "picture decodes" if damage.count == 1 else "pictures decode"
    first = "" if damage.count == 1 else "the first "
    shown = sum(last - first + 1 for first, last in damage.stretches)
    seen = f"; up to {shown} frames show it" if shown > damage.count else ""
    gone = f", {damage.undecoded} of them not at all" if damage.undecoded else ""
    return (
        f"{damage.count} coded {many} only with errors{gone}, {first}at frame {damage.first}{seen}."
    )


def judge_index_first(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether playback can begin before the whole file has arrived."""
    first = evidence.export.file.index_first
    if first is None:
        return kept("This wrapper needs no index at its start.")
    if first:
        return kept("The index stands before the picture data.", wrapper_state=KEPT)
    text = "The index stands after the picture data: the whole file must arrive first."
    return bent(text, wrapper_state=BENT)


def _coded_raster(evidence: Evidence) -> tuple[int, int] | None:
    """Return the raster that decoders give: the stream's, else the wrapper's."""
    spoken = [value for value in evidence.spoken("raster") if isinstance(value, tuple)]
    return (int(spoken[-1][0]), int(spoken[-1][1])) if spoken else None


BIT_RATE = "bit rate"


def level_excesses(evidence: Evidence) -> list[Excess]:
    """Return the limits on raster and rate of the declared level that the picture exceeds."""
    return [item for item in _all_excesses(evidence) if item.what != BIT_RATE]


def _all_excesses(evidence: Evidence) -> list[Excess]:
    video, raster = evidence.export.video, _coded_raster(evidence)
    if raster is None or video.level is None:
        return []
    return excesses(
        video.codec,
        video.level,
        raster=raster,
        rate=shown_rate(evidence.export)[0],
        bit_rate=video.bit_rate,
        duration_s=video.duration_s,
        profile=video.profile,
        high_tier=video.tier == "high",
    )


def fitting_level(evidence: Evidence) -> str | None:
    """Return the smallest level that carries the export's raster and rate; None for none."""
    codec, raster = evidence.export.video.codec, _coded_raster(evidence)
    rate, _ = shown_rate(evidence.export)
    if codec not in LEVELS or raster is None or rate is None:
        return None
    return smallest_level(codec, raster, rate)


def judge_level(evidence: Evidence, _trait: str) -> Ruling:
    """Judge whether the declared level allows raster and rate.

    A bit rate above it is told but breaks nothing: encoders without a rate limit choose the level
    by raster and rate alone, and most healthy exports at constant quality are made so.
    """
    level = evidence.export.video.level
    if level is None:
        return kept("This codec declares no level.")
    found = level_excesses(evidence)
    if not found:
        above = [item for item in _all_excesses(evidence) if item.what == BIT_RATE]
        told = (
            f", but allows {above[0].limit:.3g} of its {above[0].value:.3g} Mb/s" if above else ""
        )
        return kept(f"Level {level} carries this raster and rate{told}.", stream_state=KEPT)
    first = found[0]
    measure = Measure(first.what, round(first.value, 3), first.unit, round(first.limit, 3))
    text = f"Level {level} allows {first.limit:g} {first.unit}; the picture has {first.value:g}."
    return bent(text, measure=measure, stream_state=BENT)
