"""What a service takes a picture for: by its own beliefs about who in the file tells the truth."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ...colour.codepoints import HDR_TRANSFERS
from ...declared import Declaration, TraitValue
from ...judged import plan_reading
from ...measured import Reading
from ...promised import Promise, is_unspecified, value_stated
from ..stand_in import TRAITS, Belief, StandIn
from ..stand_in.model import Value
from .consequences import consequence

ALIKE: Mapping[str, tuple[frozenset[int], ...]] = {
    # One curve, written by several standards: ITU-T H.273 table 3.
    "transfer": (frozenset({1, 6, 14, 15}),),
    "matrix": (frozenset({5, 6}),),
    # ITU-R BT.601 for 625 and for 525 lines are two; SMPTE 170M and 240M are one.
    "primaries": (frozenset({6, 7}),),
}
ALWAYS_SOMETHING = ("transfer", "primaries", "matrix", "range")
ABSENT = {"stereo": "mono", "projection": "rectangular"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Recognised:
    """One trait as a service takes it.

    promised: None where nobody promised anything. why: who said so. consequence: what viewers get
    where it is another than promised; empty where it is not.
    """

    trait: str
    taken: Value
    promised: Value
    why: str
    consequence: str = ""

    @property
    def as_promised(self) -> bool:
        """Return whether viewers get what was promised."""
        return not self.consequence

    @property
    def is_told(self) -> bool:
        """Return whether anybody says what is meant; of layouts and shapes silence says it."""
        return self.promised is not None or self.trait not in ALWAYS_SOMETHING


@dataclass(frozen=True, slots=True)
class Recognition:
    """All that a service takes a picture for."""

    traits: tuple[Recognised, ...]

    def __getitem__(self, trait: str) -> Value:
        """Return what a trait is taken for; raises KeyError."""
        return {one.trait: one.taken for one in self.traits}[trait]

    @property
    def as_promised(self) -> bool:
        """Return whether all of it is as promised."""
        return all(one.as_promised for one in self.traits)

    @property
    def wrong(self) -> tuple[Recognised, ...]:
        """Return what is taken for something else."""
        return tuple(one for one in self.traits if not one.as_promised)

    @property
    def is_hdr(self) -> bool:
        """Return whether the picture is taken for PQ or HLG."""
        return self["transfer"] in HDR_TRANSFERS

    def reading(self, declared: Declaration) -> Reading:
        """Return how the service reads the file's samples."""
        aspect = self["pixel_aspect"]
        wide = aspect if isinstance(aspect, tuple) else (1, 1)
        return replace(
            plan_reading(declared),
            full_range=self["range"] == "full",
            transfer=_code(self["transfer"]),
            matrix=_code(self["matrix"]),
            primaries=_code(self["primaries"]),
            aspect=wide[0] / wide[1],
            projection=_word(self["projection"]),
            stereo=_word(self["stereo"]),
        )


def recognise(
    declared: Declaration, stand_in: StandIn, promise: Promise | None = None
) -> Recognition:
    """Return what a service takes a file for.

    promise: what it is meant to be; None: what it says of itself.
    """
    return Recognition(
        tuple(_recognised(trait, declared, stand_in.believes[trait], promise) for trait in TRAITS)
    )


def _recognised(
    trait: str, declared: Declaration, belief: Belief, promise: Promise | None
) -> Recognised:
    taken, why = _taken(trait, declared, belief)
    meant = meant_by_promise(trait, declared, promise)
    told = "" if _is_same(trait, taken, meant) else consequence(trait, taken, meant)
    return Recognised(trait=trait, taken=taken, promised=meant, why=why, consequence=told)


def _taken(trait: str, declared: Declaration, belief: Belief) -> tuple[Value, str]:
    if not belief.witnesses:
        return belief.silent, "it looks at no tag"
    witnesses = {"stream": declared.stream, "wrapper": declared.wrapper}
    said = {}
    for name in belief.witnesses:
        one = witnesses[name].get(trait)
        if one is None or is_unspecified(trait, one.value):
            continue
        value = _as_value(one.value)
        if not belief.understands or value in belief.understands:
            said[name] = value
    if not said:
        listened = " and ".join(belief.witnesses)
        return belief.silent, f"the {listened} {_does(belief)} nothing that it understands"
    first = next(iter(said))
    if len(set(said.values())) > 1 and belief.at_odds == "silent":
        return belief.silent, "the witnesses are at odds, so it believes neither"
    return said[first], f"the {first} says so"


def _does(belief: Belief) -> str:
    return "says" if len(belief.witnesses) == 1 else "say"


def _as_value(value: TraitValue) -> Value:
    if isinstance(value, tuple) and len(value) == 2:
        return int(value[0]), int(value[1])
    return value if isinstance(value, int | str) else None


def meant_by_promise(trait: str, declared: Declaration, promise: Promise | None) -> Value:
    """Return what a trait is meant to be: as promised, else as the file states it; or None."""
    promised = promise.value(trait) if promise is not None else None
    value = promised if promised is not None else value_stated(declared, trait)
    return _as_value(value) if value is not None else None


def _is_same(trait: str, taken: Value, meant: Value) -> bool:
    if trait in ABSENT:
        usual = ABSENT[trait]
        return (taken or usual) == (meant or usual)
    if trait == "rotation":
        return (taken or 0) == (meant or 0)
    if trait == "pixel_aspect":
        one, other = taken or (1, 1), meant or (1, 1)
        assert isinstance(one, tuple) and isinstance(other, tuple)  # noqa: S101  (text.py)
        return one[0] * other[1] == one[1] * other[0]
    if meant is None or taken == meant:
        return True
    return any({taken, meant} <= group for group in ALIKE.get(trait, ()))


def _code(value: Value) -> int | None:
    return value if isinstance(value, int) else None


def _word(value: Value) -> str | None:
    return value if isinstance(value, str) else None
