"""Taking in files that are not placed yet, telling where they belong, and bringing them in."""

import time
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import Any

from django.db import transaction
from django.db.models import QuerySet

from ...core.compared.placing import EXPORT, MASTER, Came, Known, Proposal, propose
from ...core.declared import fingerprint
from ...core.errors import CoreError, UsageError
from ...core.reported.declared import declaration_from_object
from ..library import roots
from ..library.models import Reel, Title
from ..library.services import (
    Reader,
    ReadFile,
    add_attempt,
    create_title,
    discard_upload,
    read_file,
    take_upload,
)
from ..library.uploads import ReelFile
from ..people.rights import may
from ..people.roles import ADD
from ..work.boundary import run_child
from ..work.child import Work
from ..work.errors import FaultError
from ..work.made import only_one
from . import works
from .models import Arrival, FilmMarks

READ_TIME_S = 60
A_LOOK_S = 1.5
"""How long one look at the page goes on reading what was not read yet."""
UPLOADS = "uploads"
"""What was sent by the browser lies there; nobody names it by a path."""
MOST_FILES = 500
"""Of a folder, at once."""
MOST_TITLES = 60
"""Titles whose masters are held against what came, the newest; their marks are taken once."""


def of(user: Any) -> QuerySet[Arrival]:
    """Return the files that a person brought and did not place yet."""
    return Arrival.objects.filter(came_by=user)


def take(sent: ReelFile, name: str, *, by: Any) -> Arrival:
    """Keep a file that was sent; it is read when somebody looks. Raises OSError."""
    root, path = take_upload(sent)
    return Arrival.objects.create(root=root, path=path, sent_name=_tidy(name, path), came_by=by)


def _tidy(name: str, path: str) -> str:
    """Return a sent name with its folders, as far as it is one."""
    parts = [part for part in name.replace("\\", "/").split("/") if part not in ("", ".", "..")]
    return "/".join(parts)[-1000:] or path


def take_folder(root: str, folder: str, *, by: Any) -> int:
    """Note all picture files of a folder of a media root, its own folders too; returns how many.

    What is brought in already, or waits already, is left out. Raises UsageError.
    """
    known = set(Reel.objects.filter(root=root).values_list("path", flat=True))
    known |= set(of(by).filter(root=root).values_list("path", flat=True))
    below = (path for path, _ in roots.files_below(root, folder) if path not in known)
    found = list(islice(below, MOST_FILES))
    made = [Arrival(root=root, path=path, sent_name=path, came_by=by) for path in found]
    Arrival.objects.bulk_create(made, ignore_conflicts=True)
    return len(made)


def take_paths(text: str, *, by: Any) -> tuple[int, list[str]]:
    """Note the files that a list names, one a line: `root:path`, or a whole path below a root.

    Returns how many are new, and the lines that name no file that may be taken, each with why.
    """
    lines = [line.strip().strip("\"'") for line in text.splitlines()]
    made: list[tuple[str, str]] = []
    odd: list[str] = []
    for line in dict.fromkeys(filter(None, lines)):
        if len(made) >= MOST_FILES:
            odd.append(f"{line}: more than {MOST_FILES} at once")
            break
        try:
            root, path = _named(line)
            if roots.resolve(root, path).is_dir():
                odd.append(f"{line}: that is a folder")
                continue
            made.append((root, path))
        except UsageError as error:
            odd.append(f"{line}: {error.text}")
    known = {*Reel.objects.values_list("root", "path"), *of(by).values_list("root", "path")}
    new = [Arrival(root=r, path=p, sent_name=p, came_by=by) for r, p in made if (r, p) not in known]
    Arrival.objects.bulk_create(new, ignore_conflicts=True)
    return len(new), odd


def _named(line: str) -> tuple[str, str]:
    """Return root and path that a line names; raises UsageError where it names none."""
    known = roots.roots()
    root, parted, path = line.partition(":")
    if parted and root in known and root != UPLOADS:
        return root, path.lstrip("/")
    for name, base in known.items():
        if name != UPLOADS and Path(line).is_relative_to(base):
            return name, Path(line).relative_to(base).as_posix()
    words = "It lies below no media root."
    raise UsageError(words, code="no-root", where=line[:120])


@dataclass(frozen=True, slots=True)
class Left:
    """What is still to be read before anything can be proposed."""

    files: int
    masters: int

    def __bool__(self) -> bool:
        return bool(self.files or self.masters)


def read_some(user: Any) -> Left:
    """Read what was not read yet, for A_LOOK_S at most; returns what is left."""
    # Whoever looks from two windows reads nothing twice.
    with only_one(f"arrivals of {user.pk}"):
        end = time.monotonic() + A_LOOK_S
        unread = of(user).filter(declaration__isnull=True, trouble="")
        for arrival in unread:
            if time.monotonic() > end:
                break
            _read(arrival)
        masters = _unmarked(user) if of(user).exists() else []
        while masters and time.monotonic() < end:
            _mark(masters.pop(0))
        return Left(unread.count(), len(masters))


def _read(arrival: Arrival) -> None:
    try:
        found = _told_by(works.read_arrival, arrival)
    except (CoreError, FaultError) as error:
        arrival.trouble = str(getattr(error, "text", error))[:400]
        arrival.save(update_fields=["trouble"])
        return
    for name, value in found.items():
        setattr(arrival, name, value)
    arrival.save(update_fields=list(found))


def _told_by(work: Work, file: Arrival | Reel) -> dict[str, Any]:
    """Return what a child process reads of a file; raises CoreError and FaultError."""
    return run_child(work, path=str(file.locate()), time_s=READ_TIME_S)


def _unmarked(user: Any) -> list[Reel]:
    """Return masters without marks of their present state, the newest titles' first."""
    newest = _titles(user).order_by("-pk")[:MOST_TITLES]
    return [one.master for one in newest if not _marks(one.master)]


def _titles(user: Any) -> QuerySet[Title]:
    """Return the titles that a person sees with their masters' marks, without declarations."""
    titles = Title.objects.visible_to(user).select_related("master__film_marks")
    return titles.defer("master__declaration")


def _mark(reel: Reel) -> None:
    marks: Sequence[Any] = ()
    try:
        marks = _told_by(works.marks, reel)["marks"]
    except (CoreError, FaultError):
        marks = ()  # it is away or broken: known by its name only, until it changes
    keep_marks(reel, marks)


def keep_marks(reel: Reel, marks: Any) -> None:
    """Keep what a master is known again by."""
    told = {"size_bytes": reel.size_bytes, "changed_ns": reel.changed_ns, "marks": marks}
    FilmMarks.objects.update_or_create(reel=reel, defaults=told)


def _marks(reel: Reel) -> FilmMarks | None:
    row: FilmMarks | None = getattr(reel, "film_marks", None)
    is_present = row is not None and (row.size_bytes, row.changed_ns) == reel.state
    return row if is_present else None


@dataclass(frozen=True, slots=True)
class Placed:
    """A file that arrived, and what is proposed for it; None where it cannot be read."""

    arrival: Arrival
    proposal: Proposal | None


def proposals(user: Any) -> list[Placed]:
    """Return the read files with what is proposed, titles together."""
    read = [one for one in of(user) if one.is_read]
    came = [_came(one) for one in read if one.declaration is not None]
    made = {one.key: one for one in propose(came, [_known(one) for one in titles_for(user)])}
    placed = [Placed(one, made.get(one.pk)) for one in read]
    return sorted(placed, key=_order)


def _order(placed: Placed) -> tuple[str, bool, str]:
    found = placed.proposal
    return (found.title_name if found else "~", not (found and found.role == MASTER), str(placed))


def titles_for(user: Any) -> list[Title]:
    """Return the titles that a person may add to."""
    titles = _titles(user).prefetch_related("deliveries")
    return [one for one in titles if may(user, ADD, one.pk)]


def _came(arrival: Arrival) -> Came:
    return Came(
        key=arrival.pk,
        name=arrival.sent_name,
        size_bytes=arrival.size_bytes,
        declared=declaration_from_object(arrival.declaration or {}),
        marks=_tupled(arrival.marks),
    )


def _known(title: Title) -> Known:
    row = _marks(title.master)
    return Known(
        key=title.pk,
        name=title.name,
        master_name=title.master.name,
        master_bytes=title.master.size_bytes,
        deliveries=tuple(one.name for one in title.deliveries.all() if one.binned_at is None),
        marks=_tupled(row.marks if row else ()),
    )


def _tupled(marks: Any) -> tuple[tuple[int, ...], ...]:
    return tuple(tuple(one) for one in marks)


@dataclass(frozen=True, slots=True)
class Wish:
    """What somebody confirmed for a file. role: MASTER, EXPORT or empty: it stays where it is."""

    arrival: Arrival
    role: str
    title: str
    delivery: str


@dataclass(frozen=True, slots=True)
class Done:
    """What came of it: how many masters and exports, and why others stayed."""

    titles: tuple[Title, ...]
    exports: int
    troubles: tuple[tuple[str, str], ...]


def bring_in(wishes: Sequence[Wish], *, by: Any) -> Done:
    """Make the titles and attempts that were confirmed: masters first. What fails stays, told."""
    titles: list[Title] = []
    troubles: list[tuple[str, str]] = []
    exports = 0
    for wish in sorted(wishes, key=lambda one: one.role != MASTER):
        try:
            if wish.role == MASTER:
                titles.append(_make_title(wish, by))
            elif wish.role == EXPORT:
                _make_attempt(wish, by)
                exports += 1
        except (CoreError, FaultError) as error:
            troubles.append((wish.arrival.name, str(getattr(error, "text", error))))
    return Done(tuple(titles), exports, tuple(troubles))


def _read_again(arrival: Arrival) -> Reader:
    """Return what was read of a file, as a way to read it; read anew where it changed since."""
    state = fingerprint(arrival.locate())
    if (state.size_bytes, state.changed_ns) != (arrival.size_bytes, arrival.changed_ns):
        read = read_file(arrival.root, arrival.path)
    else:
        fields = ("declaration", "size_bytes", "changed_ns")
        found = {name: getattr(arrival, name) for name in fields}
        read = ReadFile(arrival.root, arrival.path, found)
    return lambda *_: read


def _make_title(wish: Wish, by: Any) -> Title:
    arrival = wish.arrival
    if not may(by, ADD):
        raise _refusal("Your role lets you add to some titles only, and make none.")
    if Title.objects.filter(name=wish.title, binned_at=None).exists():
        raise _refusal(f"There is a title {wish.title} already. Choose another name.")
    read = _read_again(arrival)
    # Both or none: an arrival that stayed could be taken off, and the title's master with it.
    with transaction.atomic():
        title = create_title(wish.title, "", arrival.root, arrival.path, by=by, reader=read)
        keep_marks(title.master, arrival.marks)
        arrival.delete()
    return title


def _make_attempt(wish: Wish, by: Any) -> None:
    arrival = wish.arrival
    title = Title.objects.visible_to(by).filter(name=wish.title).first()
    if title is None or not may(by, ADD, title.pk):
        raise _refusal(f"There is no title {wish.title} that you may add to.")
    read = _read_again(arrival)
    with transaction.atomic():
        add_attempt(title, wish.delivery, arrival.root, arrival.path, by=by, reader=read)
        arrival.delete()


def _refusal(words: str) -> UsageError:
    return UsageError(words, code="not-placed", where="title")


def put_away(arrival: Arrival) -> None:
    """Forget a file that arrived; one that was sent here is deleted, others stay where they are."""
    discard_upload(arrival.root, arrival.path)
    arrival.delete()


def kept_uploads() -> set[str]:
    """Return the names of sent files that wait here."""
    return set(Arrival.objects.filter(root=UPLOADS).values_list("path", flat=True))
