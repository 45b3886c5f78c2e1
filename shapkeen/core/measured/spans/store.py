"""Finished parts of a survey on disk, so that one that was killed goes on where it was."""

import hashlib
import json
import os
import shutil
import uuid
from collections.abc import Sequence
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Any, Generic, TypeVar, get_origin
from zipfile import BadZipFile

import cattrs
import numpy as np

from ..model import Source

T = TypeVar("T")
MOST_STORES = 60
"""At most some 10 MB each for a feature film."""
FORM = 12
"""Raised when a measure changes, so that older parts are not taken."""
ARRAY = "@array"


def _is_array(kind: Any) -> bool:
    return kind is np.ndarray or get_origin(kind) is np.ndarray


class _ArrayConverter:
    """Takes findings apart into plain values and arrays, and builds them again.

    One converter for all: they refer to themselves, so that one for each part would hold its
    arrays, megabytes, until the collector of cycles came by.
    """

    def __init__(self) -> None:
        """Make the converter."""
        self._arrays: dict[str, Any] = {}
        made = self._converter = cattrs.Converter()
        made.register_unstructure_hook_func(_is_array, self._put)
        made.register_structure_hook_func(_is_array, lambda name, _: self._arrays[name])
        made.register_unstructure_hook(Fraction, str)
        made.register_structure_hook(Fraction, lambda text, _: Fraction(text))

    def _put(self, array: Any) -> str:
        name = f"{ARRAY}{len(self._arrays)}"
        self._arrays[name] = array
        return name

    def unstructured(self, findings: Any) -> tuple[Any, dict[str, Any]]:
        """Return plain values that name arrays, and the arrays by name."""
        self._arrays = {}
        try:
            return self._converter.unstructure(findings), self._arrays
        finally:
            self._arrays = {}

    def structured(self, record: Any, arrays: dict[str, Any], form: type[T]) -> T:
        """Return findings; raises what cattrs does where they are not of this form."""
        self._arrays = arrays
        try:
            return self._converter.structure(record, form)
        finally:
            self._arrays = {}


class PartStore(Generic[T]):
    """Keeps the findings of parts of one survey in a folder. Every file is whole or not there."""

    def __init__(self, folder: Path, form: type[T], sources: Sequence[Source], about: str) -> None:
        """Use a folder of its own below `folder`.

        By the files' identities and readings, and by `about`: whatever else the findings follow
        from. form: a frozen dataclass of plain values and arrays.
        """
        told = [str(FORM), form.__name__, about]
        for source in sources:
            status = source.path.stat()
            told += [str(source.path.resolve()), str(status.st_size), str(status.st_mtime_ns)]
            told.append(str(source.reading))
        self.folder = folder / hashlib.sha256("|".join(told).encode()).hexdigest()[:32]
        self._form, self._converter = form, _ArrayConverter()

    def _path(self, part: object) -> Path:
        return self.folder / f"{hashlib.sha256(repr(part).encode()).hexdigest()[:24]}.npz"

    def load(self, part: object) -> T | None:
        """Return the findings of a part; None where it is not stored, or is damaged."""
        try:
            with np.load(self._path(part), allow_pickle=False) as kept:
                arrays = {name: kept[name] for name in kept.files}
            record = json.loads(arrays.pop("record").tobytes())
            return self._converter.structured(record, arrays, self._form)
        except (OSError, ValueError, KeyError, IndexError, BadZipFile, cattrs.BaseValidationError):
            return None

    def save(self, part: object, findings: T) -> None:
        """Store the findings of a part: written beside its goal, then renamed.

        On a full disk nothing is kept and the survey goes on: it only could not be resumed.
        """
        plain, arrays = self._converter.unstructured(findings)
        arrays["record"] = np.frombuffer(json.dumps(plain).encode(), np.uint8)
        partial_path = self.folder / f".{uuid.uuid4().hex}.part"
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            with partial_path.open("wb") as file:
                np.savez_compressed(file, allow_pickle=False, **arrays)
                file.flush()
                os.fsync(file.fileno())
            partial_path.replace(self._path(part))
        except OSError:
            pass
        finally:
            with suppress(OSError):
                partial_path.unlink(missing_ok=True)


def trim_stores(folder: Path) -> None:
    """Remove the stores not used for longest."""
    with suppress(OSError):
        stores = sorted(folder.iterdir(), key=lambda path: path.stat().st_mtime, reverse=True)
        for old in stores[MOST_STORES:]:
            shutil.rmtree(old, ignore_errors=True)
