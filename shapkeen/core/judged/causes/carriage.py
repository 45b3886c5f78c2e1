"""Damage to the stream; acts on rate, on the order of the file, and on its declared level."""

from collections.abc import Iterator, Set

from ..evidence import Evidence, shown_rate
from ..model import Cause
from ..rules.carriage import damage_words, fitting_level, level_excesses
from ..rules.tag import shown


def explain_rate(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield rate-changed where frames are shown at another rate than promised."""
    promised = evidence.promise.value("frame_rate")
    found, _ = shown_rate(evidence.export)
    if "frame_rate" not in broken or found is None or promised is None:
        return
    pair = (found.numerator, found.denominator)
    yield Cause(
        id="rate-changed",
        traits=tuple(name for name in ("frame_rate", "frames") if name in broken),
        strength=0.97,
        values={"from": promised, "to": pair},
        why=f"The export plays at {shown('frame_rate', pair)} frames a second where "
        f"{shown('frame_rate', promised)} were promised.",
        remedy="re-export",
        cure=f"Set the export's rate to {shown('frame_rate', promised)} and export again.",
    )


def explain_damage(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield stream-damaged where coded pictures decode only with errors."""
    damage = evidence.survey.export_statistics.damage if evidence.survey else None
    if "intact" not in broken or damage is None:
        return
    yield Cause(
        id="stream-damaged",
        traits=("intact",),
        strength=0.98,
        values={"frames": damage.count, "first": damage.first},
        why=f"The coded stream is broken: {damage_words(damage)}",
        remedy="re-export",
        cure="Copy the file again from where it was exported, and compare the copy; where that is "
        "broken too, export again.",
    )


def explain_index(_evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield index-last where the index stands after the picture data."""
    if "index_first" in broken:
        yield Cause(
            id="index-last",
            traits=("index_first",),
            strength=1.0,
            values={},
            why="The index stands after the picture data, so playback cannot begin before "
            "the whole file has arrived.",
            remedy="move-index",
            cure="Move the index to the front in a copy; nothing is encoded again.",
        )


def explain_level(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield level-exceeded where the declared level does not allow the picture."""
    found = level_excesses(evidence)
    if "level" not in broken or not found:
        return
    video = evidence.export.video
    what = ", ".join(item.what for item in found)
    fitting = fitting_level(evidence)
    other = f"{fitting}, the smallest" if fitting else "one"
    yield Cause(
        id="level-exceeded",
        traits=("level",),
        strength=1.0,
        values={"level": video.level, "exceeded": what},
        why=f"The file declares level {video.level}, but exceeds what it allows ({what}): decoders "
        "that rely on the level may refuse it.",
        remedy="re-export",
        cure=f"Set the encoder's level to automatic, or to {other} that carries this raster and "
        "rate, and export again.",
    )
