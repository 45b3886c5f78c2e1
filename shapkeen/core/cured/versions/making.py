"""A version made: its spans coded side by side, joined, tagged, proven, and given its name."""

import errno
import json
import os
import shutil
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import partial
from hashlib import sha256
from pathlib import Path
from tempfile import TemporaryDirectory

import av

from ...declared import read_declaration
from ...errors import InternalError
from ...measured.spans.chosen import chosen_pool
from ...measured.spans.run import Pool, run_parts
from ...promised import Promise
from ...promised.specification import Specification
from ..copying.writing import check_free, give_name
from ..cure import cure_file
from ..model import Left
from .joining import join_spans
from .order import Order, order_version
from .recipe import Recipe
from .recipe_text import recipe_to_json
from .sound import level_of
from .spans import Span, code_span, frames_done, spans_of
from .specified import shipped_specification

Progress = Callable[[int, int], None]
"""Called with (frames done, frames in all); may raise to stop."""
FIRST_LOOK_PRESET, FIRST_LOOK_CRF = "ultrafast", 23
OUT_OF_ROOM = frozenset({errno.ENOSPC, errno.EDQUOT, errno.EFBIG, errno.EROFS, errno.EIO})
FORM = 1
"""Raised when pictures are made otherwise, so that older spans are not joined with newer ones."""
SHARE = 0.6
"""How much of a span's need is given to it: common practice of two-pass coding, no source."""


@dataclass(frozen=True, slots=True)
class Made:
    """A finished version.

    asked: what the recipe asks for beside the master's promise. left: traits that it should state,
    and no witness of it can. notes: what else an editor should know.
    """

    path: Path
    asked: Promise
    frames: int
    size_bytes: int
    left: tuple[str, ...]
    notes: tuple[str, ...] = ()


def check_recipe(
    master: Path, recipe: Recipe, *, specification: Specification | None = None
) -> Order:
    """Return the order of a recipe for a master file; raises UsageError where it cannot be made.

    specification: the one that it names, where it is not one of those that ship.
    """
    if specification is None:
        specification = shipped_specification(recipe.specification)
    return order_version(read_declaration(master), recipe, specification=specification)


def make_version(
    master: Path,
    recipe: Recipe,
    goal: Path,
    *,
    workers: int | None = None,
    pool: Pool | None = None,
    progress: Progress | None = None,
    specification: Specification | None = None,
) -> Made:
    """Make a version of a master under a name that is still free.

    Spans are kept beside the goal until it is whole: a call that was ended goes on where it was.
    workers: processes, as many as cores if None; pool: an executor given from outside, in their
    place. specification: as in check_recipe. Raises UsageError where the recipe cannot be made or
    the name is taken, UnreadableFileError for a master that cannot be read, InternalError where the
    disk is full.
    """
    check_free(goal)
    order = check_recipe(master, recipe, specification=specification)
    folder = _folder(goal, master, order)
    told = progress or (lambda _done, _all: None)
    count = workers or len(os.sched_getaffinity(0))
    with _writable(folder, order):
        folder.mkdir(exist_ok=True)
        _forget_others(folder, goal)
        coding = _Coding(master, order, folder, pool or chosen_pool(count))
        parts = coding.run(told)
        joined = folder / f"joined{goal.suffix}"
        level = level_of(master, order)
        join_spans(parts, order, master, joined, level)
        left = _named(joined, order, goal)
        shutil.rmtree(folder, ignore_errors=True)
    notes = (level.note,) if level.note else ()
    return Made(goal, order.asked, order.frames, goal.stat().st_size, left, notes)


def _folder(goal: Path, master: Path, order: Order) -> Path:
    """Return where a version's spans are kept: of this master, recipe and name alone."""
    state = master.stat()
    made_by = [FORM, av.__version__]
    told = json.dumps([recipe_to_json(order.recipe), state.st_size, state.st_mtime_ns, *made_by])
    return goal.parent / f"{_beginning(goal)}{_digest(told)}"


def _beginning(goal: Path) -> str:
    return f".making-{_digest(goal.name)}-"


def _digest(text: str) -> str:
    return sha256(os.fsencode(text)).hexdigest()[:12]


def _forget_others(folder: Path, goal: Path) -> None:
    """Take away what an earlier recipe, or another master, left unfinished under this name."""
    for path in goal.parent.glob(f"{_beginning(goal)}*"):
        if path != folder:
            shutil.rmtree(path, ignore_errors=True)


@dataclass(frozen=True, slots=True)
class _Coding:
    """The coding of one version's spans; each is kept in the folder once it is whole."""

    master: Path
    order: Order
    folder: Path
    pool: Pool | None

    def run(self, told: Progress) -> list[tuple[Span, Path]]:
        """Code all spans, and return them with their files; goes on from those that are there."""
        spans = spans_of(self.order)
        rates = self._rates(spans, told)
        self._over(spans, _Work(self.master, self.order, rates), "span", told)
        return [(span, self._path("span", span)) for span in spans]

    def _over(self, spans: tuple[Span, ...], work: "_Work", kind: str, told: Progress) -> None:
        """Do the work of the spans whose file is not there."""
        paths = {span: self._path(kind, span) for span in spans}
        left = [span for span in spans if not paths[span].exists()]

        def tell(*_: int) -> None:
            done = [s.frames if path.exists() else frames_done(path) for s, path in paths.items()]
            told(sum(done), self.order.frames)

        near = self.pool is None or self.pool.shares_disk
        doing = partial(_code_here, work, paths) if near else partial(_code_far, work)
        for span, coded in run_parts(
            left, doing, pool=self.pool, store=None, report=tell, tick=tell
        ):
            if coded is not None:
                _keep(coded, paths[span])
                tell()

    def _path(self, kind: str, span: Span) -> Path:
        return self.folder / f"{kind}-{span.first:08d}.span"

    def _rates(self, spans: tuple[Span, ...], told: Progress) -> dict[int, float]:
        """Return bits a second by a span's first frame, where the recipe asks for a rate."""
        coding = self.order.recipe.coding
        if coding.bit_rate is None:
            return {}
        if coding.passes == 1:
            return {span.first: float(coding.bit_rate) for span in spans}
        return shared_out(spans, self._needs(spans, told), float(coding.bit_rate))

    def _needs(self, spans: tuple[Span, ...], told: Progress) -> list[int]:
        """Return how many bytes each span takes at one quick setting: a first look at all.

        It makes no frame that stays, so none is told as done; but it may be stopped.
        """
        quick = replace(
            self.order.recipe.coding,
            preset=FIRST_LOOK_PRESET,
            crf=FIRST_LOOK_CRF,
            bit_rate=None,
            passes=1,
        )
        order = replace(self.order, recipe=replace(self.order.recipe, coding=quick))
        work = _Work(self.master, order, {})
        self._over(spans, work, "look", lambda _done, whole: told(0, whole))
        return [self._path("look", span).stat().st_size for span in spans]


def shared_out(spans: Sequence[Span], needs: Sequence[int], bit_rate: float) -> dict[int, float]:
    """Return bits a second by a span's first frame, so that the whole has a bit rate.

    needs: bytes of each span at one quality. What needs more a frame gets more, but not in full.
    """
    weights = [(need / span.frames) ** SHARE for span, need in zip(spans, needs, strict=True)]
    whole = sum(weight * span.frames for span, weight in zip(spans, weights, strict=True))
    mean = whole / sum(span.frames for span in spans)
    return {s.first: bit_rate * w / mean for s, w in zip(spans, weights, strict=True)}


@dataclass(frozen=True, slots=True)
class _Work:
    """What codes a span of one version. rates: bits a second by a span's first frame."""

    master: Path
    order: Order
    rates: Mapping[int, float]

    def code(self, span: Span, goal: Path) -> None:
        code_span(self.master, self.order, span, goal, bit_rate=self.rates.get(span.first))


def _code_here(work: _Work, paths: Mapping[Span, Path], span: Span) -> tuple[Span, None]:
    """Code a span into its file. Runs in any process of this machine."""
    work.code(span, paths[span])
    return span, None


def _code_far(work: _Work, span: Span) -> tuple[Span, bytes]:
    """Return a span with its coded bytes. Runs on any machine."""
    with TemporaryDirectory(prefix="shapkeen-span-") as folder:
        goal = Path(folder, "coded.span")
        work.code(span, goal)
        return span, goal.read_bytes()


def _keep(coded: bytes, path: Path) -> None:
    """Write what came back from another machine; the file has its name once it is whole."""
    part = path.with_suffix(".part")
    part.write_bytes(coded)
    part.replace(path)


def _named(joined: Path, order: Order, goal: Path) -> tuple[str, ...]:
    """Give the joined file its name, with everything said by both witnesses that have a place."""
    cured = cure_file(joined, goal, order.wishes)
    if cured.size_bytes is None:  # no copies of such a wrapper: it says what it can already
        with joined.open("rb") as file:
            os.fsync(file.fileno())
        give_name(joined, goal)
    said = {left.trait for left in cured.left}
    return tuple(sorted(name for name in said if _is_unsaid(cured.left, name)))


def _is_unsaid(left: Sequence[Left], trait: str) -> bool:
    """Return whether neither witness can say a trait."""
    return {one.witness for one in left if one.trait == trait} == {"wrapper", "stream"}


@contextmanager
def _writable(folder: Path, order: Order) -> Iterator[None]:
    """Say what a full disk needs; what is finished is kept for the next call."""
    try:
        yield
    except (OSError, av.FFmpegError) as error:
        if isinstance(error, av.FFmpegError) and error.errno not in OUT_OF_ROOM:
            raise InternalError(
                f"The libraries gave up: {error.strerror or error}. This is a fault of Shapkeen, "
                "which should have refused the recipe; please report it, with the recipe.",
                code="encoder-failed",
                where=f"{order.encoder.library}, {order.recipe.wrapper}",
            ) from error
        room = os.statvfs(folder.parent)
        done = sorted(folder.glob("span-*.span")) if folder.exists() else []
        spent, frames = sum(path.stat().st_size for path in done), _frames_of(done, order)
        need = 3 * spent / frames * order.frames if frames else 0
        wanted = f" Some {need / 1e6:.0f} MB are needed in all," if need else " Make room there:"
        raise InternalError(
            f"The version cannot be written: {error.strerror or error}.{wanted} "
            f"{room.f_bavail * room.f_frsize / 1e6:.0f} MB are free. What is finished is kept: "
            "make it again, and it goes on from there.",
            code="unwritten",
            where=str(folder.parent),
        ) from error


def _frames_of(done: Sequence[Path], order: Order) -> int:
    names = {path.name for path in done}
    return sum(s.frames for s in spans_of(order) if f"span-{s.first:08d}.span" in names)
