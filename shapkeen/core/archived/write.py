"""Writing a bag: file after file into a folder of another name, which gets its own in the end.

What was copied is noted in a journal. Begun again after a crash, it goes on behind the last file
that was copied, where that and its source still are what they were.
"""

import hashlib
import json
import os
import shutil
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from ..digests import PIECE_BYTES, StateOnDisk, Told, state_on_disk
from ..errors import InternalError, UsageError
from . import form
from .check import check_bag

SPARE_BYTES = 64 * 1024 * 1024
"""What stays free on the disk beside a bag."""
JOURNAL = "journal.jsonl"


@dataclass(frozen=True, slots=True)
class Item:
    """One file of the payload: its path in it, with slashes, and where it comes from."""

    path: str
    source: Path | bytes

    @property
    def size_bytes(self) -> int:
        """Return its bytes; raises UsageError where its file is gone."""
        if isinstance(self.source, bytes):
            return len(self.source)
        return state_on_disk(self.source).size_bytes


@dataclass(frozen=True, slots=True)
class Left:
    """What an earlier try left: files that need not be copied again."""

    files: int
    bytes: int


@dataclass(frozen=True, slots=True)
class _Copied:
    """A line of the journal. state: of the source when it was copied, None for bytes."""

    path: str
    sha256: str
    size_bytes: int
    state: tuple[int, int, int] | None


def write_bag(
    goal: Path,
    items: Sequence[Item],
    *,
    info: Iterable[tuple[str, str]] = (),
    told: Told = lambda *_: None,
) -> Left:
    """Write a bag at `goal`, verify it, and return what was there already of an earlier try.

    info: labels and values of bag-info.txt; size and number are added. told: hears bytes done and
    all of them, copying and verifying.

    Raises UsageError where the goal is taken, a source is gone or changes, a path is none, or the
    disk has no room; InternalError where what was written reads back otherwise.
    """
    if goal.exists():
        raise UsageError(
            f"{goal.name} is there already. Give the archive another name.",
            code="taken",
            where=goal.name,
        )
    _check_paths(items)
    making = goal.with_name(f".{goal.name}.making")
    payload = making / form.PAYLOAD
    payload.mkdir(parents=True, exist_ok=True)
    known = _journal(making)
    total = sum(item.size_bytes for item in items)
    left = _still_good(items, known, payload)
    _check_room(making, total - sum(one.size_bytes for one in left.values()))
    copied, done = dict(left), 0
    for item in items:
        if item.path not in copied:
            copied[item.path] = _copy(
                item,
                payload,
                making,
                lambda part, at=done: told(at + part, 2 * total),  # type: ignore[misc]
            )
        done += copied[item.path].size_bytes
        told(done, 2 * total)
    _drop_others(payload, set(copied))
    _tag(making, copied, info)
    checked = check_bag(
        making, told=lambda part, _: told(total + part, 2 * total), besides={JOURNAL}
    )
    if checked.problems:
        raise InternalError(
            f"The archive reads back otherwise than it was written: {checked.problems[0].text}",
            code="bag-differs",
            where=goal.name,
        )
    (making / JOURNAL).unlink()
    making.replace(goal)
    _fsync(goal.parent)
    return Left(len(left), sum(one.size_bytes for one in left.values()))


def _check_paths(items: Sequence[Item]) -> None:
    seen: set[str] = set()
    for item in items:
        name = form.same_name(item.path).casefold()
        if not form.is_safe(item.path) or not form.is_plain(item.path) or name in seen:
            raise UsageError(
                f"{item.path!r} cannot stand in an archive, or stands in it twice.",
                code="bad-path",
                where=item.path,
            )
        seen.add(name)


def _check_room(folder: Path, needed: int) -> None:
    free = shutil.disk_usage(folder).free
    if free < needed + SPARE_BYTES:
        raise UsageError(
            f"The archive needs {needed / 1e9:.2f} GB more, and {free / 1e9:.2f} GB are free. Make "
            "room, leave something out, or write it to another place.",
            code="no-room",
            where=folder.name,
        )


def _journal(making: Path) -> dict[str, _Copied]:
    """Return what an earlier try noted, the last line left out where it is half."""
    found = {}
    path = making / JOURNAL
    for line in path.read_text().splitlines() if path.exists() else ():
        try:
            told = json.loads(line)
            state = tuple(told["state"]) if told["state"] else None
            found[told["path"]] = _Copied(told["path"], told["sha256"], told["size"], state)
        except (ValueError, KeyError, TypeError):
            continue
    return found


def _still_good(
    items: Sequence[Item], known: Mapping[str, _Copied], payload: Path
) -> dict[str, _Copied]:
    """Return what of the journal is still there, of sources that did not move."""
    good = {}
    for item in items:
        one = known.get(item.path)
        if one is None:
            continue
        place = payload / item.path
        if isinstance(item.source, bytes):
            same = hashlib.sha256(item.source).hexdigest() == one.sha256
        else:
            same = _state(state_on_disk(item.source)) == one.state
        if same and place.is_file() and place.stat().st_size == one.size_bytes:
            good[item.path] = one
    return good


def _copy(item: Item, payload: Path, making: Path, told: Callable[[int], None]) -> _Copied:
    """Copy one file, on the disk before it is noted."""
    place = payload / item.path
    place.parent.mkdir(parents=True, exist_ok=True)
    part = place.with_name(f".{place.name[:80]}.part")
    digest, size, state = hashlib.sha256(), 0, None
    try:
        with part.open("wb") as out:
            if isinstance(item.source, bytes):
                digest.update(item.source)
                size = out.write(item.source)
            else:
                before = state_on_disk(item.source)
                with item.source.open("rb") as file:
                    while piece := file.read(PIECE_BYTES):
                        digest.update(piece)
                        size += out.write(piece)
                        told(size)
                state = _state(before)
                if _state(state_on_disk(item.source)) != state:
                    raise UsageError(
                        f"{item.source.name} changed while it was copied. Begin again when it is "
                        "whole.",
                        code="changing",
                        where=item.source.name,
                    )
            out.flush()
            os.fsync(out.fileno())
        part.replace(place)
    finally:
        part.unlink(missing_ok=True)
    _fsync(place.parent)
    made = _Copied(item.path, digest.hexdigest(), size, state)
    _note(making, made)
    return made


def _note(making: Path, made: _Copied) -> None:
    told = {"path": made.path, "sha256": made.sha256, "size": made.size_bytes, "state": made.state}
    with (making / JOURNAL).open("a") as file:
        file.write(json.dumps(told) + "\n")
        file.flush()
        os.fsync(file.fileno())


def _state(found: StateOnDisk) -> tuple[int, int, int]:
    return found.size_bytes, found.changed_ns, found.inode_ns


def _drop_others(payload: Path, wanted: set[str]) -> None:
    """Remove what an earlier try copied and nobody wants any more, half files included."""
    for place in sorted(payload.rglob("*"), reverse=True):
        if place.is_dir():
            if not any(place.iterdir()):
                place.rmdir()
        elif place.relative_to(payload).as_posix() not in wanted:
            place.unlink()


def _tag(making: Path, copied: Mapping[str, _Copied], info: Iterable[tuple[str, str]]) -> None:
    """Write the tag files: declaration, information, and both manifests."""
    digests = {f"{form.PAYLOAD}/{path}": one.sha256 for path, one in copied.items()}
    fields = [*info, ("Payload-Oxum", form.oxum(one.size_bytes for one in copied.values()))]
    tags = {
        form.DECLARATION: form.DECLARED,
        form.INFO: form.info_text(fields),
        form.manifest_name(): form.manifest_text(digests),
    }
    of_tags = {name: hashlib.sha256(text.encode()).hexdigest() for name, text in tags.items()}
    tags[form.manifest_name(tags=True)] = form.manifest_text(of_tags)
    for name, text in tags.items():
        with (making / name).open("w", encoding="utf-8", newline="\n") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
    _fsync(making)


def _fsync(folder: Path) -> None:
    number = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(number)
    finally:
        os.close(number)
