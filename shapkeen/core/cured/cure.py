"""A corrected copy of a file: what is only wrongly said is put right, and nothing coded again."""

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import BinaryIO, cast

from ..declared import Declaration, TraitValue, declaration_within, read_declaration
from ..declared.window import Window
from ..errors import InternalError, UnreadableFileError
from . import isobmff, matroska
from .answers import WITNESSES, changes_between, is_complete, is_said, left_out, witness_of
from .context import Context
from .copying import PatchedFile, Patches, Told, check_free, write_copy
from .model import Cured, Left, Proof
from .reasons import reason
from .wishes import SAYABLE, Wishes

ROOMS = {"mp4": isobmff, "mov": isobmff, "matroska": matroska, "webm": matroska}
"""Wrapper → who rewrites its files and proves their copies; a new one is one entry."""


def has_copies(declaration: Declaration) -> bool:
    """Return whether corrected copies are written of this kind of file."""
    return declaration.file.wrapper in ROOMS


def cure_file(export: Path, goal: Path, wishes: Wishes, *, told: Told | None = None) -> Cured:
    """Write a copy of a file in which its headers say what is wished.

    The file itself is only read. Raises UnreadableFileError for a file that cannot be read or
    kept whole, UsageError where the goal's name is taken, InternalError where it cannot be written.
    """
    check_free(goal)
    before, patches = _planned(export, wishes)
    if patches is None:
        return _nothing(before, wishes)
    verify = partial(_verified, export, before)
    proof, after = write_copy(export, goal, patches, verify, told=told)
    return _cured(before, after, wishes, goal.stat().st_size, proof)


def preview_copy(export: Path, wishes: Wishes) -> Cured:
    """Return what a copy would say, read from what it would hold; nothing is written or proved.

    Raises UnreadableFileError for a file that cannot be read or kept whole.
    """
    before, patches = _planned(export, wishes)
    if patches is None:
        return _nothing(before, wishes)
    with export.open("rb") as source, _whole_only(export):
        copy = PatchedFile(source, export.stat().st_size, patches)
        after = declaration_within(Window(cast(BinaryIO, copy), 0, copy.size), export.name)
        return _cured(before, after, wishes, copy.size, None)


def _planned(export: Path, wishes: Wishes) -> tuple[Declaration, Patches | None]:
    """Return what a file says, and its patches; None where nothing wished can be said."""
    before = read_declaration(export)
    can = {trait: value for trait, value in wishes.items() if trait in SAYABLE}
    if not has_copies(before) or not can:
        return before, None
    with export.open("rb") as source, _whole_only(export):
        window = Window(source, 0, export.stat().st_size)
        patches = ROOMS[before.file.wrapper].rewritten(window, can, _context(before))
    return before, patches if list(patches) or _says_any(before, wishes) else None


def _cured(
    before: Declaration, after: Declaration, wishes: Wishes, size: int, proof: Proof | None
) -> Cured:
    return Cured(
        size_bytes=size,
        changes=tuple(changes_between(before, after)),
        left=tuple(left_out(after, wishes, reason)),
        proof=proof,
        complete=is_complete(after, wishes),
    )


@contextmanager
def _whole_only(export: Path) -> Iterator[None]:
    """Refuse a file whose structure does not add up: its readers say so by errors of values."""
    try:
        yield
    except (ValueError, IndexError) as error:
        raise UnreadableFileError(
            f"No copy of this file can be kept whole, for its structure is damaged: {error}. "
            "Nothing was written. Export it again.",
            code="cannot-keep",
            where=export.name,
        ) from error


def _context(declaration: Declaration) -> Context:
    """Return what stands beside an entry: the wrapper's word, else the stream's."""
    stated: Mapping[str, TraitValue] = {
        trait: said.value
        for witness in (declaration.stream, declaration.wrapper)
        for trait, said in witness.items()
    }
    return Context(declaration.file.wrapper == "mov", stated, declaration.video.codec)


def _says_any(declaration: Declaration, wishes: Wishes) -> bool:
    return any(
        is_said(declaration, witness, trait, wished)
        for trait, wished in wishes.items()
        for witness in WITNESSES
        if wished is not None or not witness_of(declaration, witness).get(trait)
    )


def _nothing(declaration: Declaration, wishes: Wishes) -> Cured:
    """Return that no copy was written, for nothing of what was wished could be said."""
    left: tuple[Left, ...] = tuple(left_out(declaration, wishes, reason))
    return Cured(None, (), left, None, complete=False)


def _verified(export: Path, before: Declaration, copy: Path) -> tuple[Proof, Declaration]:
    """Return the proof that nothing else changed, and what the copy says; both read from it.

    Raises InternalError where anything else differs: then no copy is left.
    """
    with export.open("rb") as one, copy.open("rb") as other, _whole_only(export):
        proof = ROOMS[before.file.wrapper].prove(
            Window(one, 0, export.stat().st_size),
            Window(other, 0, copy.stat().st_size),
            before.video.codec,
        )
    if not proof.unchanged:
        raise InternalError(
            "The copy did not hold every coded picture as it was, so it was thrown away. This is "
            "a fault of Shapkeen; please report it, with this file if you can.",
            code="not-unchanged",
            where=export.name,
        )
    return proof, read_declaration(copy)
