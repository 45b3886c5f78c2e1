"""Where files belong that came in: which are masters, which exports, of which title and delivery.

Proposals, told with their reasons; somebody confirms them. By pictures first, by names where
pictures tell nothing.
"""

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import takewhile

from ..declared import Declaration
from ..promised import value_stated
from .likeness import ALIKE, Marks, likeness

MASTER, EXPORT = "master", "export"
MEZZANINE = frozenset({"prores", "vc3", "ffv1", "rawvideo", "jpeg2000"})
"""Codecs that finishing hands on in."""
MASTER_WORDS = frozenset({"master", "mst", "mezz", "mezzanine"})
NOISE = MASTER_WORDS.union(
    ("export", "exports", "delivery", "out", "render", "copy", "final", "graded", "grade"),
    ("mov", "mp4", "mxf", "mkv", "h264", "h265", "hevc", "avc", "av1", "vp9", "prores", "vc3"),
    ("hd", "uhd", "4k", "2k", "sdr", "hdr", "pq", "hlg", "10bit", "8bit"),
    ("709", "2020", "rec709", "rec2020"),
)
"""Words of file names that say what a file is like, not whom it is for."""
VERSION = re.compile(r"^(?:v|ver|version|attempt|take|try|r|rev)?\d+$")
SHARE = 0.6
"""Of a title's words that a file's name must hold."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Came:
    """A file that came in. name: with its folders, as it was sent."""

    key: int
    name: str
    size_bytes: int
    declared: Declaration
    marks: Marks


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """A title that there is. master_name: its file's. marks: of its master."""

    key: int
    name: str
    master_name: str
    master_bytes: int
    deliveries: tuple[str, ...]
    marks: Marks


@dataclass(frozen=True, slots=True, kw_only=True)
class Proposal:
    """What a file is taken for. role: MASTER, EXPORT, or empty where nobody can tell.

    title: a known one's key; None: a new one. title_name: of either. delivery: of an export.
    reason: in words.
    """

    key: int
    role: str
    title: int | None
    title_name: str
    delivery: str
    reason: str


def propose(came: Sequence[Came], known: Sequence[Known]) -> list[Proposal]:
    """Return a proposal for each file, in their order."""
    placed: dict[int, Proposal] = {}
    left: list[Came] = []
    for number, file in enumerate(came):
        found = _twice(file, came[:number]) or _among_known(file, known)
        if found is None:
            left.append(file)
        else:
            placed[file.key] = found
    placed |= {one.key: one for one in _new_titles(left, known)}
    return [placed[file.key] for file in came]


def _among_known(file: Came, known: Sequence[Known]) -> Proposal | None:
    """Return the proposal for an export of a title that there is; None where it fits none."""
    scored = [(likeness(file.marks, one.marks), _named_alike(file, one), one) for one in known]
    alike = [found for found in scored if found[0] >= ALIKE] or [one for one in scored if one[1]]
    if not alike:
        return None
    best, named, title = max(alike, key=lambda found: (found[1], found[0]))
    if _stem(file.name) == _stem(title.master_name) and file.size_bytes == title.master_bytes:
        reason = f"the master of {title.name} itself: name and size are the same"
        return _proposal(file, "", title, "", reason)
    reason = f"shows the film of {title.name}, likeness {best:.2f}"
    if best < ALIKE:
        reason = f"by its name only: its pictures look otherwise, likeness {best:.2f}"
    others = [one.name for _, _, one in alike if one is not title and not named]
    if others:
        reason += f"; so do {', '.join(others[:2])}"
    delivery = _delivery(file, (title.name, title.master_name), title.deliveries)
    return _proposal(file, EXPORT, title, delivery, reason)


def _proposal(file: Came, role: str, title: Known, delivery: str, reason: str) -> Proposal:
    return _told(file, role, title.name, delivery, reason, title=title.key)


def _told(
    file: Came, role: str, name: str, delivery: str, reason: str, *, title: int | None = None
) -> Proposal:
    return Proposal(
        key=file.key, role=role, title=title, title_name=name, delivery=delivery, reason=reason
    )


def _twice(file: Came, others: Sequence[Came]) -> Proposal | None:
    """Return the proposal for a file that came in twice; None where it is the first."""
    here = (_stem(file.name), file.size_bytes, file.marks)
    if any((_stem(one.name), one.size_bytes, one.marks) == here for one in others):
        return _told(file, "", "", "", "came in twice: name, size and pictures are the same")
    return None


def _new_titles(files: Sequence[Came], known: Sequence[Known]) -> Iterable[Proposal]:
    """Yield proposals for files that belong to no title that there is."""
    masters = _masters(files)
    taken, names = {one.name.casefold() for one in known}, {}
    for master in masters:
        names[master.key] = _title_name(master, taken)
        taken.add(names[master.key].casefold())
    for file in files:
        if file.key in names:
            yield _told(file, MASTER, names[file.key], "", _why_master(file))
            continue
        home = max(masters, key=lambda one: _belongs(file, one), default=None)
        if home is None or _belongs(file, home) == NOWHERE:
            why = "no title here shows this film, and it does not look like a master"
            yield _told(file, "", _title_name(file, taken), "", why)
            continue
        reason = f"shows the film of {_leaf(home.name)}, likeness {_alike(file, home):.2f}"
        if _alike(file, home) < ALIKE:
            reason = f"by its name only: likeness {_alike(file, home):.2f} with {_leaf(home.name)}"
        title = names[home.key]
        yield _told(file, EXPORT, title, _delivery(file, (title, home.name), ()), reason)


NOWHERE = (False, 0, 0.0)


def _alike(file: Came, other: Came) -> float:
    return likeness(file.marks, other.marks)


def _belongs(file: Came, master: Came) -> tuple[bool, int, float]:
    """Return how well a file fits a master: by pictures, then by the words their names begin with.

    NOWHERE where neither fits.
    """
    found = _alike(file, master)
    pairs = zip(_words(file.name), _words(master.name), strict=False)
    shared = len(list(takewhile(lambda pair: pair[0] == pair[1], pairs)))
    if found < ALIKE and not shared:
        return NOWHERE
    return found >= ALIKE, shared, found


def _masters(files: Sequence[Came]) -> list[Came]:
    """Return the files that are masters: whose name says so, or that others were made of."""
    masters = [one for one in files if _says_master(one)]
    left = [one for one in files if all(_alike(one, master) < ALIKE for master in masters)]
    left = [one for one in left if one not in masters]
    while left:
        best = max(left, key=_mastery)
        rest = [one for one in left if one is not best and _alike(one, best) < ALIKE]
        if len(rest) < len(left) - 1 or _is_mezzanine(best):
            masters.append(best)
        left = rest
    return [one for one in files if one in masters]


def _says_master(file: Came) -> bool:
    return bool(MASTER_WORDS & set(re.split(r"[\W_]+", _stem(file.name))))


def _mastery(file: Came) -> tuple[float, ...]:
    """Return by what a file looks like the one that others were made of: more is more so."""
    depth = value_stated(file.declared, "bit_depth")
    raster = value_stated(file.declared, "raster")
    samples = float(raster[0] * raster[1]) if isinstance(raster, tuple) else 0.0
    bits = float(depth) if isinstance(depth, int) else 0.0
    return _is_mezzanine(file), bits, samples, file.size_bytes


def _is_mezzanine(file: Came) -> bool:
    return file.declared.video.codec in MEZZANINE


def _why_master(file: Came) -> str:
    if _says_master(file):
        return "its name says master"
    if _is_mezzanine(file):
        return "a mezzanine codec"
    return "of those that show this film, it holds most"


def _leaf(name: str) -> str:
    return name.replace("\\", "/").rpartition("/")[2]


def _stem(name: str) -> str:
    return _leaf(name).rpartition(".")[0].casefold() or _leaf(name).casefold()


def _all_words(name: str) -> list[str]:
    """Return a name's words in small letters, those of its folder too."""
    parts = name.replace("\\", "/").split("/")
    told = " ".join([*parts[-2:-1], _stem(parts[-1])])
    return [word for word in re.split(r"[\W_]+", told.casefold()) if word]


def _words(name: str) -> list[str]:
    """Return the words of a file's own name that are no noise."""
    words = re.split(r"[\W_]+", _stem(name))
    return [word for word in words if word and word not in NOISE and not VERSION.match(word)]


def _named_alike(file: Came, title: Known) -> bool:
    """Return whether a file's name holds the title's, or its master's."""
    own = set(_all_words(file.name))
    for name in (title.name, title.master_name):
        words = set(_words(name))
        if words and len(words & own) >= SHARE * len(words):
            return True
    return False


HALF = 0.5
"""Of the words of a delivery's name, or of a file's, that the other must hold."""


def _shared(name: str, told: Sequence[str]) -> float:
    """Return which share of the shorter of two names' words the other holds too."""
    words = set(_words(name)) or set(_all_words(name))
    return len(words & set(told)) / max(min(len(words), len(set(told))), 1)


def _delivery(file: Came, taken: Iterable[str], there: Sequence[str]) -> str:
    """Return the delivery that a file's name tells: one that there is, else a new one's name."""
    gone = {word for name in taken for word in _all_words(name)}
    told = [word for word in _words(file.name) if word not in gone]
    known = max(there, key=lambda name: _shared(name, told), default="")
    if known and _shared(known, told) >= HALF:
        return known
    if told:
        return " ".join(told).title()
    return there[0] if len(there) == 1 else "Export"


def _title_name(master: Came, taken: set[str]) -> str:
    """Return a name for a new title that no other has."""
    name = " ".join(_words(master.name)).title() or _leaf(master.name).rpartition(".")[0]
    free, number = name, 2
    while free.casefold() in taken:
        free, number = f"{name} {number}", number + 1
    return free
