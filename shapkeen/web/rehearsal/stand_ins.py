"""Stand-ins on disk: those that ship, and the house's own, one file a version."""

from pathlib import Path

from django.conf import settings

from ...core.errors import UsageError
from ...core.rehearsed.stand_in import (
    StandIn,
    shipped_stand_ins,
    stand_in_from_json,
    stand_in_to_json,
)
from ..library import house_files


def _folder() -> Path:
    folder: Path = settings.CONF.data_dir / "stand-ins"
    return folder


def _own() -> list[StandIn]:
    return house_files.read_all(_folder(), stand_in_from_json)


def current() -> list[StandIn]:
    """Return the newest version of each, by name."""
    newest: dict[str, StandIn] = {}
    for one in [*shipped_stand_ins(), *_own()]:
        if one.key not in newest or one.version > newest[one.key].version:
            newest[one.key] = one
    return sorted(newest.values(), key=lambda one: one.name)


def find(key: str) -> StandIn | None:
    """Return the newest version of a stand-in."""
    return next((one for one in current() if one.key == key), None)


def keep(text: str) -> StandIn:
    """Keep a stand-in as a file; raises UsageError where it is none, or its version is there."""
    made = stand_in_from_json(text)
    newest = find(made.key)
    if newest is not None and made.version <= newest.version:
        raise UsageError(
            f"Version {newest.version} of {made.key} is there already. Give yours version "
            f"{newest.version + 1}, or another key.",
            code="stand-in-exists",
            where="version",
        )
    goal = _folder() / f"{made.key}.v{made.version}.json"
    house_files.write_new(goal, stand_in_to_json(made), noun="stand-in")
    return made
