"""What a corrected copy will be judged as, before it is written: the picture stays as measured."""

from dataclasses import replace

from ..declared import Declaration, Said, TraitValue
from ..judged import Comparison, Survival, judge_survival
from ..judged.evidence import Evidence
from .wishes import Wishes

IN_COPY = "in the copy"


def forecast(found: Comparison, wishes: Wishes) -> Survival:
    """Return what will have survived once a copy says what is wished.

    Both witnesses that speak of a trait will say it; of one that both are silent on, the wrapper.
    What a file's headers have no place for shows only in the copy itself.
    """
    said = _said(found.export, wishes)
    return judge_survival(Evidence(found.promise, found.master, said, found.survey))


def _said(export: Declaration, wishes: Wishes) -> Declaration:
    stream, wrapper = dict(export.stream), dict(export.wrapper)
    file = export.file
    for trait, value in wishes.items():
        if trait == "index_first":
            file = replace(file, index_first=True)
            continue
        if trait in stream:
            _say(stream, trait, value)
        if trait in wrapper or trait not in stream:
            _say(wrapper, trait, value)
        if trait == "pixel_aspect":
            wrapper.pop("display_size", None)  # it follows
    return replace(export, file=file, wrapper=wrapper, stream=stream)


def _say(witness: dict[str, Said], trait: str, value: TraitValue | None) -> None:
    if value is None:
        witness.pop(trait, None)
    else:
        witness[trait] = Said(value=value, where=IN_COPY)
