"""The nouns of this room: what a cure changed, what it left, and the proof of all else."""

from dataclasses import dataclass

from ..declared import TraitValue


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """One statement that the copy makes otherwise; None for silence. where: in the copy."""

    trait: str
    witness: str
    before: TraitValue | None
    after: TraitValue | None
    where: str


@dataclass(frozen=True, slots=True)
class Left:
    """One thing asked for that a witness does not say, and why."""

    trait: str
    witness: str
    why: str


@dataclass(frozen=True, slots=True)
class Proof:
    """pictures: samples of the picture track. unchanged: whether every coded picture and all of the
    other tracks are the same bytes in the same order at the same times."""

    pictures: int
    unchanged: bool


@dataclass(frozen=True, slots=True)
class Cured:
    """What a cure made, or would make. size_bytes is None where nothing could be said: no copy
    then; proof as well, and where no copy was written yet.

    complete: everything asked for is said by at least one witness and contradicted by none.
    """

    size_bytes: int | None
    changes: tuple[Change, ...]
    left: tuple[Left, ...]
    proof: Proof | None
    complete: bool
