"""Checking a bag: every file against every manifest, and nothing beside them (RFC 8493, 3)."""

import os
from collections.abc import Iterable, Iterator, Set
from dataclasses import dataclass
from pathlib import Path

from ..digests import Told, digests_of
from ..errors import UsageError
from . import form


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing that is not as it was written.

    code: missing, differs, beside, unsafe, form or size.
    """

    code: str
    path: str
    text: str


@dataclass(frozen=True, slots=True)
class BagCheck:
    """What a check found. files, bytes: of the payload. description: what the bag says it is."""

    files: int
    bytes: int
    problems: tuple[Problem, ...]
    description: str = ""

    @property
    def is_whole(self) -> bool:
        """Return whether nothing is wrong."""
        return not self.problems


def check_bag(
    folder: Path, *, told: Told = lambda *_: None, besides: Set[str] = frozenset()
) -> BagCheck:
    """Return whether a bag is what was written. told: hears bytes read and all of them.

    besides: names of files that may lie in it though no manifest has them.

    Raises UsageError where the folder is no bag at all.
    """
    if not (folder / form.DECLARATION).is_file():
        raise UsageError(
            f"{folder.name} is no archive: it has no {form.DECLARATION}.",
            code="no-bag",
            where=folder.name,
        )
    problems = list(_declared(folder))
    payload, wrong = _manifests(folder, tags=False)
    tags, wrong_tags = _manifests(folder, tags=True)
    problems += [*wrong, *wrong_tags]
    if not payload:
        problems.append(Problem("form", "manifest", "it has no manifest of its payload"))
    found = sorted(_files(folder, problems))
    problems += _missing(folder, payload, found)
    problems += _unlisted(found, payload, tags, besides)
    sizes = {path: (folder / path).stat().st_size for path in found}
    problems += _sums(folder, {**payload, **tags}, sizes, told)
    held = [size for path, size in sizes.items() if path.startswith(f"{form.PAYLOAD}/")]
    info = _info(folder)
    stated = info.get("payload-oxum")
    if stated and stated != form.oxum(held):
        text = f"it states {stated} bytes and files, and holds {form.oxum(held)}"
        problems.append(Problem("size", form.INFO, text))
    told_as = info.get("external-description", "")
    return BagCheck(len(held), sum(held), tuple(problems), told_as)


def _declared(folder: Path) -> Iterator[Problem]:
    text = (folder / form.DECLARATION).read_bytes()[:400].decode("utf-8", "replace")
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if len(lines) != 2 or not lines[0].startswith("BagIt-Version: "):
        yield Problem("form", form.DECLARATION, "its declaration is none of BagIt's")
    elif lines[0].split(": ")[1] not in ("1.0", "0.97"):
        yield Problem("form", form.DECLARATION, f"it is of another version: {lines[0]}")


Digests = dict[str, dict[str, str]]
"""Path → algorithm → digest."""


def _manifests(folder: Path, *, tags: bool) -> tuple[Digests, list[Problem]]:
    """Return what the manifests say of payload or tag files, and what is wrong with them."""
    found: Digests = {}
    problems = []
    for algorithm in form.KNOWN:
        name = form.manifest_name(algorithm, tags=tags)
        place = folder / name
        if not place.is_file() or place.is_symlink():
            continue
        try:
            lines = form.manifest_lines(place.read_text("utf-8-sig"))
        except (ValueError, UnicodeDecodeError) as error:
            problems.append(Problem("form", name, f"line {error} is no digest with a path"))
            continue
        for path, digest in lines:
            if not form.is_safe(path):
                problems.append(Problem("unsafe", path, f"{name} points out of the archive"))
            else:
                found.setdefault(path, {})[algorithm] = digest
    return found, problems


def _files(folder: Path, problems: list[Problem]) -> Iterator[str]:
    """Yield every file's path; links are named as problems, and not followed."""
    for place, folders, files in os.walk(folder):
        for name in [*folders, *files]:
            path = (Path(place) / name).relative_to(folder).as_posix()
            if (folder / path).is_symlink():
                problems.append(Problem("unsafe", path, "it is a link, not a file"))
            elif name in files:
                yield path


def _missing(folder: Path, payload: Digests, found: Iterable[str]) -> Iterator[Problem]:
    here = {form.same_name(path) for path in found}
    is_fetched = (folder / "fetch.txt").exists()
    for path in payload:
        if form.same_name(path) not in here:
            text = "it is to be fetched from elsewhere" if is_fetched else "it is gone"
            yield Problem("missing", path, text)


def _unlisted(
    found: Iterable[str], payload: Digests, tags: Digests, besides: Set[str]
) -> Iterator[Problem]:
    known = {form.same_name(path) for path in payload}
    of_tags = {form.same_name(path) for path in tags}
    for path in found:
        name = form.same_name(path)
        if path.startswith(f"{form.PAYLOAD}/"):
            if name not in known:
                yield Problem("beside", path, "no manifest knows it")
        elif of_tags and name not in of_tags | besides and not path.startswith("tagmanifest-"):
            yield Problem("beside", path, "no manifest of tag files knows it")


def _sums(folder: Path, wanted: Digests, sizes: dict[str, int], told: Told) -> Iterator[Problem]:
    by_name = {form.same_name(path): path for path in sizes}
    total, done = sum(sizes.values()), 0

    def hear(part: int, _: int) -> None:
        told(done + part, total)  # done as it is by then

    for path, digests in wanted.items():
        place = by_name.get(form.same_name(path))
        if place is None:
            if not path.startswith(f"{form.PAYLOAD}/"):
                yield Problem("missing", path, "it is gone")
            continue
        try:
            made = digests_of(folder / place, digests, hear)
        except UsageError as error:
            yield Problem("missing", path, error.text)
            continue
        done += sizes[place]
        for algorithm, digest in digests.items():
            if made[algorithm] != digest:
                yield Problem(
                    "differs", path, f"its {algorithm} is {made[algorithm]}, written was {digest}"
                )


def _info(folder: Path) -> dict[str, str]:
    """Return bag-info.txt: labels in lower case; values go on in lines that begin with a blank."""
    place = folder / form.INFO
    if not place.is_file():
        return {}
    found: dict[str, str] = {}
    label = ""
    for line in place.read_text("utf-8", errors="replace").splitlines():
        if line[:1] in (" ", "\t") and label:
            found[label] += f" {line.strip()}"
        elif ":" in line:
            label, _, value = line.partition(":")
            label = label.strip().lower()
            found[label] = value.strip()
    return found
