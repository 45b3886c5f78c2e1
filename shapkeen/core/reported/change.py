"""Two attempts beside each other: what got better, what got worse, which settings changed."""

from collections.abc import Iterator
from dataclasses import dataclass

from ..declared import Declaration, TraitValue
from ..judged import Comparison, Verdict
from ..judged.model import SEVERITY, Measure
from ..promised import Trait, promise_words, trait_by_name
from .bench import cause_title

BETTER, WORSE, OTHERWISE = "better", "worse", "otherwise"


@dataclass(frozen=True, slots=True)
class TraitChange:
    """One trait whose verdict moved, or (otherwise) whose verdict stayed and whose figure moved.

    before, after: verdicts. why: what is said of it now. figures: before → after, in words.
    """

    name: str
    title: str
    way: str
    before: str
    after: str
    why: str
    figures: str


@dataclass(frozen=True, slots=True)
class SettingChange:
    """One thing that both files declare and say otherwise; silent where one says nothing."""

    name: str
    where: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class Change:
    """What changed from one attempt to another. gone, new, stayed: causes by their names.

    promises: traits that each was promised otherwise, before → after.
    """

    traits: tuple[TraitChange, ...]
    gone: tuple[str, ...]
    new: tuple[str, ...]
    stayed: tuple[str, ...]
    settings: tuple[SettingChange, ...]
    promises: tuple[SettingChange, ...]

    def of(self, way: str) -> list[TraitChange]:
        """Return the traits that changed in a way."""
        return [one for one in self.traits if one.way == way]

    @property
    def sentence(self) -> str:
        """Return in a line what became of it."""
        better, worse = len(self.of(BETTER)), len(self.of(WORSE))
        if not better and not worse:
            return "No verdict moved."
        parts = [f"{better} trait{'s' * (better != 1)} better"] if better else []
        parts += [f"{worse} trait{'s' * (worse != 1)} worse"] if worse else []
        return " and ".join(parts).capitalize() + "."


def change_between(before: Comparison, after: Comparison) -> Change:
    """Return what changed from one comparison to another; they may have different promises."""
    causes = [
        {one.id: cause_title(one) for one in each.survival.causes} for each in (before, after)
    ]
    was, now = causes
    return Change(
        traits=tuple(_traits(before, after)),
        gone=tuple(title for id_, title in was.items() if id_ not in now),
        new=tuple(title for id_, title in now.items() if id_ not in was),
        stayed=tuple(title for id_, title in now.items() if id_ in was),
        settings=tuple(_settings(before.export, after.export, before, after)),
        promises=tuple(_promises(before, after)),
    )


def _causes(comparison: Comparison) -> dict[str, str]:
    return {one.id: cause_title(one) for one in comparison.survival.causes}


def _traits(before: Comparison, after: Comparison) -> Iterator[TraitChange]:
    earlier = {one.trait: one for one in before.survival.verdicts}
    for now in after.survival.verdicts:
        was, trait = earlier.get(now.trait), trait_by_name(now.trait)
        if was is None or trait is None:
            continue
        figures = _figures(was.measure, now.measure)
        way = _way(was, now, figures)
        if way:
            yield TraitChange(
                trait.name, trait.title, way, was.verdict, now.verdict, now.why, figures
            )


def _way(was: Verdict, now: Verdict, figures: str) -> str:
    moved = SEVERITY.index(now.verdict) - SEVERITY.index(was.verdict)
    if moved:
        return WORSE if moved > 0 else BETTER
    return OTHERWISE if figures else ""


def _figures(was: Measure | None, now: Measure | None) -> str:
    """Return a figure that moved, before → after, where it is the same figure."""
    if was is None or now is None or was.name != now.name or f"{was.value:g}" == f"{now.value:g}":
        return ""
    unit = f" {now.unit}" if now.unit else ""
    return f"{now.name} {was.value:g} → {now.value:g}{unit}, limit {now.limit:g}{unit}"


def _settings(
    was: Declaration, now: Declaration, before: Comparison, after: Comparison
) -> Iterator[SettingChange]:
    told = (
        ("Codec", was.video.codec, now.video.codec),
        ("Profile", was.video.profile, now.video.profile),
        ("Level", was.video.level, now.video.level),
        ("Bit rate", _rate(was), _rate(now)),
        ("Frames", was.video.frame_count, now.video.frame_count),
        ("Wrapper", was.file.wrapper, now.file.wrapper),
        ("Bytes", was.file.size_bytes, now.file.size_bytes),
    )
    for name, earlier, later in told:
        if earlier != later:
            yield SettingChange(name, "", _word(earlier), _word(later))
    earlier_by = {one.trait: one for one in before.survival.verdicts}
    for verdict in after.survival.verdicts:
        trait, other = trait_by_name(verdict.trait), earlier_by.get(verdict.trait)
        if trait is not None and other is not None and trait.declared:
            yield from _witnesses(trait, other, verdict)


def _witnesses(trait: Trait, was: Verdict, now: Verdict) -> Iterator[SettingChange]:
    for where in ("wrapper", "stream"):
        earlier, later = getattr(was, where), getattr(now, where)
        if earlier != later:
            yield SettingChange(trait.title, where, _shown(trait, earlier), _shown(trait, later))


def _promises(before: Comparison, after: Comparison) -> Iterator[SettingChange]:
    for name, later in after.promise.traits.items():
        earlier, trait = before.promise.traits.get(name), trait_by_name(name)
        if trait is None:
            continue
        words = [promise_words(trait, one) if one else "nothing" for one in (earlier, later)]
        if words[0] != words[1]:
            yield SettingChange(trait.title, "promise", *words)


def _shown(trait: Trait, value: TraitValue | None) -> str:
    return "silent" if value is None else trait.show(value)


def _rate(declaration: Declaration) -> str:
    rate = declaration.video.bit_rate
    return f"{rate / 1e6:.3g} Mb/s" if rate else ""


def _word(value: object) -> str:
    return str(value) if value not in (None, "") else "not told"
