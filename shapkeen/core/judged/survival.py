"""Judging one export: every promised trait in turn, then the causes."""

from dataclasses import replace

from ..promised import TRAITS, TWO_EYES, Promise, Promised, Trait, promise_beside, promise_shown
from .causes import explain
from .evidence import Evidence
from .model import BENT, LOST, UNPROVEN, Ruling, Survival, Verdict
from .notes import notes_of
from .pairing import with_sure_fold, within_marks, without_damage
from .rules import RULES
from .rules.shape import is_combed
from .witnesses import states_of

SPHERES = frozenset({"equirectangular", "half-equirectangular"})
"""Layouts that a silent master's picture proves."""


def judge_survival(evidence: Evidence) -> Survival:
    """Return a verdict for each promised trait, and the fewest causes that explain them.

    Pure: no file is touched. Traits stand in the registry's order.
    """
    promise = whole_promise(evidence)
    survey = evidence.survey
    if survey is not None:
        survey = without_damage(within_marks(survey, promise))
        survey = with_sure_fold(survey, evidence.export)
    evidence = replace(evidence, promise=promise, survey=survey)
    verdicts = tuple(
        _verdict(evidence, trait) for trait in TRAITS if trait.name in evidence.promise.traits
    )
    broken = frozenset(v.trait for v in verdicts if v.verdict in (BENT, LOST))
    return Survival(verdicts, tuple(explain(evidence, broken)), notes_of(evidence, verdicts))


def whole_promise(evidence: Evidence) -> Promise:
    """Return the promise with what the files themselves add to it: that is what is judged by."""
    return promise_beside(_with_shown(evidence.promise, evidence), evidence.export)


def _with_shown(promise: Promise, evidence: Evidence) -> Promise:
    """Return the promise with what the master shows though it states nothing of it.

    A sphere, two eyes; and whole frames, where the export's are woven: no header of many codecs
    states them.
    """
    survey = evidence.survey
    sphere, eyes = (survey.sphere, survey.eyes) if survey else (None, None)
    promise = promise_shown(
        promise,
        projection=sphere.kinds[0] if sphere and sphere.kinds[0] in SPHERES else None,
        stereo=eyes.packings[0] if eyes and eyes.packings[0] in TWO_EYES else None,
    )
    if "scan" in promise.traits or not is_combed(evidence):
        return promise
    whole = Promised(value="progressive", origin="the master's picture")
    return replace(promise, traits={**promise.traits, "scan": whole})


def _verdict(evidence: Evidence, trait: Trait) -> Verdict:
    promised = evidence.promised(trait.name)
    ruling = _softened(RULES[trait.rule](evidence, trait.name), promised.weight)
    ruling = _for_want_of_whole_frames(evidence, ruling)
    wrapper, stream = evidence.export.wrapper, evidence.export.stream
    in_wrapper, in_stream = wrapper.get(trait.name), stream.get(trait.name)
    return Verdict(
        trait=trait.name,
        family=trait.family,
        verdict=ruling.verdict,
        promised=promised.value,
        wrapper=in_wrapper.value if in_wrapper else _order_of(evidence, trait),
        stream=in_stream.value if in_stream else None,
        picture=ruling.picture,
        why=ruling.why,
        states=states_of(evidence, trait, ruling),
        measure=ruling.measure,
    )


def _order_of(evidence: Evidence, trait: Trait) -> bool | None:
    """Return the wrapper's order, which is no field of it but how its boxes stand."""
    return evidence.export.file.index_first if trait.name == "index_first" else None


def _for_want_of_whole_frames(evidence: Evidence, ruling: Ruling) -> Ruling:
    """Return the ruling with the reason, where nothing was compared since all of it is broken."""
    survey = evidence.survey
    if ruling.verdict != UNPROVEN or survey is None or survey.pairs:
        return ruling
    if survey.export_statistics.damage.count or survey.master_statistics.damage.count:
        return replace(ruling, why=f"{ruling.why} Broken pictures leave no frame to compare.")
    return ruling


def _softened(ruling: Ruling, weight: str) -> Ruling:
    """Return the ruling softened where the promise is only a wish."""
    if weight == "should" and ruling.verdict == LOST:
        return replace(ruling, verdict=BENT)
    return ruling
