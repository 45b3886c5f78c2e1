"""`shapkeen.rehearsal/1`: what a receiving service makes of a file."""

from collections.abc import Mapping
from pathlib import Path

from ..rehearsed.ladder import Plan
from ..rehearsed.ladder.making import Rendition
from ..rehearsed.received import Finding, Recognised
from ..rehearsed.rehearsal import Rehearsal
from ..rehearsed.stand_in import StandIn

JsonObject = dict[str, object]


def rehearsal_object(
    rehearsal: Rehearsal, files: Mapping[Plan, Path] | None = None, *, series: bool = False
) -> JsonObject:
    """Return the object.

    files: where each rendition lies, by its plan, for two may have one name; None: nowhere any
    more. series: whether every measured frame is told too.
    """
    arrival = rehearsal.arrival
    recognition, sound = arrival.recognition, rehearsal.sound
    return {
        "schema": "shapkeen.rehearsal/1",
        "simulation": True,
        "service": arrival.stand_in.name,
        "accepted": arrival.acceptance.accepted,
        "refusals": [_finding(one) for one in arrival.acceptance.refusals],
        "warnings": [_finding(one) for one in arrival.acceptance.warnings],
        "recognised": {one.trait: one.taken for one in recognition.traits},
        "taken_wrongly": [_recognised(one) for one in recognition.wrong],
        "excerpts": [
            {"first": one.first, "end": one.end, "moments": one.moments}
            for one in rehearsal.excerpts
        ],
        "renditions": [_rendition(one, files, series=series) for one in rehearsal.renditions],
        "sound": None
        if sound is None
        else {
            "loudness_lufs": sound.loudness_lufs,
            "gain_db": None if sound.gain_db is None else round(sound.gain_db, 1),
            "codec": sound.codec,
            "bit_rate": sound.bit_rate,
            "text": sound.text,
        },
    }


def _finding(one: Finding) -> JsonObject:
    return {
        "code": one.code,
        "text": one.text,
        "value": one.value,
        "limit": one.limit,
        "cure": one.cure,
    }


def _recognised(one: Recognised) -> JsonObject:
    return {
        "trait": one.trait,
        "taken": one.taken,
        "promised": one.promised,
        "why": one.why,
        "viewers": one.consequence,
    }


def _rendition(one: Rendition, files: Mapping[Plan, Path] | None, *, series: bool) -> JsonObject:
    plan, figures = one.plan, one.figures
    file = files.get(plan) if files else None
    told: JsonObject = {}
    if series:
        told["series"] = [
            [f.frame, round(f.ssim, 4), round(f.psnr, 2), f.delta_e and round(f.delta_e, 2)]
            for f in figures.series
        ]
    return {
        "name": plan.name,
        "file": str(file) if file else None,
        "raster": list(plan.raster),
        "codec": plan.rung.codec,
        "bit_rate": plan.bit_rate,
        "branch": plan.branch,
        "after_s": round(plan.arrives_s),
        "stage": plan.rung.stage,
        "ssim": round(figures.ssim, 4),
        "psnr": round(figures.psnr, 2),
        "delta_e": None if figures.delta_e is None else round(figures.delta_e, 2),
        "detail_lines": figures.detail_lines,
        "of_lines": figures.of_lines,
        "banding": None if figures.banding is None else round(figures.banding, 4),
        "worst_frame": figures.worst,
        "bits_per_second": round(one.bits_per_second),
        **told,
    }


def services_object(stand_ins: tuple[StandIn, ...]) -> JsonObject:
    """Return the list of services, by name."""
    return {"services": [{"name": one.name, "text": one.note} for one in stand_ins]}
