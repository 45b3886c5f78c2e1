"""What the page of one rehearsal tells, from what was found."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ...core.geometry.codec_profiles import CODEC_NAMES
from ...core.rehearsed.rehearsal import Arrival
from ...core.rehearsed.what_if import Question, worth_of
from ...core.rehearsed.what_if.trying import outcomes_from
from ...core.rehearsed.what_if.variants import other_scale
from ...core.reported.declared import declaration_from_object
from ...core.reported.figures.suffering import suffering_strip
from ..work.models import Job
from . import services
from .forms import CODEC_WORDS, QuestionForm, TimeForm
from .models import Rehearsal, Trial
from .seen import TIMES, USUAL_PEAK, at_of_wheel, seen_at, stages_of, time_words, wheel_of


@dataclass(frozen=True, slots=True)
class RenditionRow:
    """One rendition of the table. place: among the plans."""

    place: int
    told: Mapping[str, Any]
    codec: str
    after: str
    strip: str


def rows_of(rehearsal: Rehearsal) -> list[RenditionRow]:
    """Return every rendition with its figures and its strip."""
    frames = _frames_of(rehearsal)
    excerpts = [(one.first, one.end) for one in rehearsal.excerpts]
    return [
        RenditionRow(
            place=place,
            told=one,
            codec=CODEC_NAMES.get(one["codec"], one["codec"]),
            after=time_words(one["after_s"]),
            strip=suffering_strip(
                [(row[0], row[1]) for row in one["series"]], frames=frames, excerpts=excerpts
            ),
        )
        for place, one in enumerate(rehearsal.found.get("renditions", []))
    ]


def _frames_of(rehearsal: Rehearsal) -> int:
    """Return how many frames the film has; where nothing states it, as many as were tried."""
    declared = declaration_from_object(rehearsal.attempt.reel.declaration)
    return declared.video.frame_count or max((e.end for e in rehearsal.excerpts), default=1)


def is_part(rehearsal: Rehearsal) -> bool:
    """Return whether only a part of the film was rehearsed."""
    return sum(one.frames for one in rehearsal.excerpts) < _frames_of(rehearsal)


def screens_told(
    rehearsal: Rehearsal, arrival: Arrival, asked: Mapping[str, Any]
) -> dict[str, Any]:
    """Return what every screen shows at the time and the moment that are asked for."""
    form = TimeForm(asked)
    found = form.cleaned_data if form.is_valid() else {}
    at = found.get("at")
    if at is None and found.get("wheel") is not None:
        at = at_of_wheel(found["wheel"])
    if at is None:
        at = max((plan.arrives_s for plan in arrival.plans), default=0)
    moments = rehearsal.moments
    asked_for = str(found.get("moment") or "")
    moment = asked_for if asked_for in moments else next(iter(moments), "")
    peak = found.get("peak") or USUAL_PEAK
    return {
        "seen": seen_at(arrival, at, peak),
        "at": round(at),
        "at_words": time_words(at) if at else "now",
        "wheel": wheel_of(at),
        "times": TIMES,
        "stages": stages_of(rehearsal.found),
        "moments": moments,
        "moment": moment,
        "frame": moments.get(moment, 0),
        "peak": peak,
    }


def trials_told(rehearsal: Rehearsal) -> list[dict[str, Any]]:
    """Return the ways of sending that were tried: answers in sentences, and all outcomes."""
    return [_trial(one) for one in rehearsal.trials.all()]


def _trial(trial: Trial) -> dict[str, Any]:
    job = Job.objects.latest_of(services.TRY, trial.pk)
    return {
        "trial": trial,
        "job": job if job is not None and not trial.outcomes else None,
        "worth": worth_of(outcomes_from(trial.outcomes)) if trial.outcomes else (),
        "rows": [
            {
                **one,
                "place": trial.outcomes.index(one),
                "codec": CODEC_WORDS[one["variant"]["codec"]],
            }
            for one in trial.rows
        ],
    }


def question_form(rehearsal: Rehearsal, sent: Mapping[str, Any] | None) -> QuestionForm:
    """Return the form of a question, filled in as is worth asking for this picture."""
    attempt = rehearsal.attempt
    usual = usual_question(services.raster_of(attempt), is_hdr=services.is_hdr(attempt))
    initial = {
        "sizes": list(usual.scales),
        "rates": " ".join(f"{bits / 1e6:g}" for bits in usual.bit_rates),
        "sharpened": ["no", "yes"],
        "codecs": list(usual.codecs),
        "line": usual.line_bits / 1e6,
        "screen": usual.screen,
    }
    return QuestionForm(sent, initial=initial)


def usual_question(raster: tuple[int, int], *, is_hdr: bool) -> Question:
    """Return the question that is worth asking first: rates by the picture's size.

    is_hdr: then codecs that carry it.
    """
    lines = min(raster)
    steps: Sequence[tuple[int, tuple[int, int, int]]] = (
        (720, (3, 8, 20)),
        (1080, (6, 15, 40)),
        (4320, (20, 50, 100)),
    )
    rates = next((mbits for most, mbits in steps if lines <= most), steps[-1][1])
    return Question(
        scales=("own", other_scale(raster)),
        bit_rates=tuple(one * 1_000_000 for one in rates),
        codecs=("h265", "av1") if is_hdr else ("h264", "h265"),
    )
