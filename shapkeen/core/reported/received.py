"""Traits as the viewers of a rehearsal get them: the thread map's last station."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..declared import TraitValue
from ..promised import freeze

BT709 = 1
AS_SDR = "Viewers get it as SDR."


@dataclass(frozen=True, slots=True, kw_only=True)
class Received:
    """One trait. value: None where it is absent. text: what viewers see, where it is wrong."""

    value: TraitValue | None
    is_wrong: bool
    text: str = ""


def received_traits(found: Mapping[str, Any]) -> dict[str, Received] | None:
    """Return what viewers get by a rehearsal's object (`shapkeen.rehearsal/1`).

    None where the service refused the file: then they get nothing.
    """
    if not found.get("accepted"):
        return None
    wrong = {one["trait"]: one["viewers"] for one in found["taken_wrongly"]}
    made = {
        trait: Received(
            value=None if value is None else freeze(value),
            is_wrong=trait in wrong,
            text=wrong.get(trait, ""),
        )
        for trait, value in found["recognised"].items()
    }
    if _is_folded(found) and not made["transfer"].is_wrong:
        made["transfer"] = Received(value=BT709, is_wrong=True, text=AS_SDR)
    return made


def _is_folded(found: Mapping[str, Any]) -> bool:
    """Return whether a picture that was taken for HDR has no HDR rendition."""
    renditions: Sequence[Mapping[str, Any]] = found["renditions"]
    hdr = found["recognised"]["transfer"] in (16, 18)
    return hdr and not any(one["branch"] == "hdr" for one in renditions)
