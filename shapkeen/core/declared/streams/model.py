"""What every stream reader gives back."""

from dataclasses import dataclass

from ..model import Notice, Witness


@dataclass(frozen=True, slots=True, kw_only=True)
class StreamReading:
    """The coded headers' own words; profile, level and tier by the standard's names."""

    witness: Witness
    profile: str | None = None
    level: str | None = None
    tier: str | None = None
    notices: tuple[Notice, ...] = ()
