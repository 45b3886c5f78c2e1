"""The same findings for people at a terminal."""

from collections.abc import Iterator

from ..core.cured import Cured
from ..core.declared import Declaration, TraitValue
from ..core.errors import CoreError
from ..core.judged.model import Survival
from ..core.promised import TRAITS, trait_by_name


def printable(text: str) -> str:
    """Return text without what a terminal would obey: control characters stand as their codes."""
    return "".join(
        one if one.isprintable() else one.encode("unicode_escape").decode() for one in text
    )


def error_line(error: CoreError) -> str:
    """Return an error in one line: of which file it is, what happened, what to do, and where."""
    file = f"{error.file}: " if error.file else ""
    place = f" [{error.where}]" if error.where else ""
    return printable(f"{file}{error.text}{place}")


MARKS = {"kept": "———", "bent": "—^—", "lost": "— —", "unproven": "· ·"}


def declaration_lines(declaration: Declaration) -> Iterator[str]:
    """Yield a file's declaration: one line a trait, wrapper and stream side by side."""
    file, video = declaration.file, declaration.video
    yield f"{printable(file.name)}  {file.size_bytes:,} bytes, {file.wrapper}"
    facts = [video.codec, video.codec_tag, video.profile, video.tier and f"{video.tier} tier"]
    facts += [video.level and f"level {video.level}"]
    yield "  ".join(fact for fact in facts if fact)
    if video.frame_count and video.duration_s:
        rate = f", {video.bit_rate / 1e6:.2f} Mb/s" if video.bit_rate else ""
        yield f"{video.frame_count} frames, {video.duration_s:g} s{rate}"
    yield ""
    yield f"{'':22}{'wrapper':24}stream"
    for trait in TRAITS:
        said = [w.get(trait.name) for w in (declaration.wrapper, declaration.stream)]
        if any(said):
            shown = [trait.form.show(one.value) if one else "silent" for one in said]
            yield f"{trait.title:22}{shown[0]:24}{shown[1]}"
    for notice in declaration.notices:
        yield printable(f"notice: {notice.text} [{notice.where}]")


def cure_lines(cured: Cured, copy: str) -> Iterator[str]:
    """Yield what a corrected copy says otherwise, what could not be said, and the proof."""
    if cured.size_bytes is None:
        yield "No copy was written: nothing of what was asked for can be said in this file."
    for change in cured.changes:
        before, after = (_in_words(change.trait, v) for v in (change.before, change.after))
        title = _title(change.trait)
        yield printable(f"{title:22}{change.witness:9}{before} → {after}  [{change.where}]")
    for one in cured.left:
        yield f"left: {_title(one.trait)}, {one.witness}. {one.why}"
    if cured.proof is not None:
        if not cured.changes:
            yield "It says all of that already: the copy is an exact one."
        yield printable(
            f"{copy}: {cured.proof.pictures} coded pictures and all other tracks are the same "
            "bytes at the same times."
        )


def _title(name: str) -> str:
    trait = trait_by_name(name)
    return trait.title if trait else name


def _in_words(name: str, value: TraitValue | None) -> str:
    trait = trait_by_name(name)
    if value is None:
        return "silent"
    return trait.form.show(value) if trait else str(value)


def survival_lines(survival: Survival) -> Iterator[str]:
    """Yield the verdicts, quiet where all is well, then causes with their cures."""
    counts = {word: sum(v.verdict == word for v in survival.verdicts) for word in MARKS}
    yield ", ".join(f"{count} {word}" for word, count in counts.items() if count)
    yield ""
    for verdict in survival.verdicts:
        title = _title(verdict.trait)
        yield f"{MARKS[verdict.verdict]}  {title:22}{verdict.verdict:10}{verdict.why}"
    for note in survival.notes:
        yield f"note: {note.text}"
    for cause in survival.causes:
        yield ""
        measured = f" (right in {cause.confidence:.0%} of cases)" if cause.confidence else ""
        yield f"cause: {cause.id}{measured} over {', '.join(cause.traits)}"
        yield f"  {cause.why}"
        yield f"  cure: {cause.cure}"
