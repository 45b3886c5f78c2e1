"""Delivery specifications on disk: those that ship, and the house's own, one file a version.

A version is never overwritten: whoever saves the same next version second is told so.
"""

from dataclasses import replace
from pathlib import Path

from django.conf import settings

from ...core.errors import UsageError
from ...core.promised.specification import (
    Specification,
    shipped_specifications,
    specification_from_json,
    specification_to_json,
)
from ..library import house_files


def _folder() -> Path:
    folder: Path = settings.CONF.data_dir / "specifications"
    return folder


def _own() -> list[Specification]:
    return house_files.read_all(_folder(), specification_from_json)


def versions() -> dict[str, list[Specification]]:
    """Return key → every version, oldest first."""
    found: dict[str, dict[int, Specification]] = {}
    for one in [*shipped_specifications(), *_own()]:
        found.setdefault(one.key, {})[one.version] = one
    return {key: [by[number] for number in sorted(by)] for key, by in found.items()}


def current() -> list[Specification]:
    """Return the newest version of each, by name."""
    return sorted((all_of[-1] for all_of in versions().values()), key=lambda one: one.name)


def find(key: str, version: int | None = None) -> Specification | None:
    """Return a specification, its newest version unless another is asked for."""
    known = versions().get(key, [])
    if version is None:
        return known[-1] if known else None
    return next((one for one in known if one.version == version), None)


def save_next(made: Specification, *, after: int) -> Specification:
    """Save an edited specification as the version after the one that was edited.

    Raises UsageError where someone else saved that version meanwhile; nothing is overwritten.
    """
    newest = find(made.key)
    if newest is not None and newest.version != after:
        raise UsageError(
            f"Version {newest.version} was saved meanwhile, by someone else or in another window. "
            "Open it, and make your changes there.",
            code="specification-changed",
            where="version",
        )
    return _write(replace(made, version=after + 1))


def take_new(made: Specification) -> Specification:
    """Save a specification that came as a file or a copy; raises UsageError where it is there."""
    if find(made.key, made.version) is not None:
        raise UsageError(
            f"{made.key}, version {made.version}, is there already. Give it another key or a "
            "higher version.",
            code="specification-exists",
            where="key",
        )
    return _write(made)


def free_key(key: str) -> str:
    """Return a key like this one that is not taken yet."""
    known, number = versions(), 2
    while f"{key}-{number}" in known:
        number += 1
    return f"{key}-{number}"


def _write(made: Specification) -> Specification:
    goal = _folder() / f"{made.key}.v{made.version}.json"
    house_files.write_new(goal, specification_to_json(made), noun="specification")
    return made
