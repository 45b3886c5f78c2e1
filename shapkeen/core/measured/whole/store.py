"""Finished spans on disk, so that a survey that was killed goes on where it was."""

import hashlib
import os
import shutil
import uuid
from contextlib import suppress
from pathlib import Path
from typing import Any
from zipfile import BadZipFile

import numpy as np
import numpy.typing as npt

from ..model import Source
from .model import FrameFigures, Tally
from .spans import Span

Kept = npt.NDArray[Any]
MOST_STORES = 60
"""At most some 10 MB each for a feature film."""
FORM = 1
"""Raised when the tally's form or a measure changes, so that older spans are not taken."""


class SpanStore:
    """Keeps tallies of one file's spans in a folder. Every file is whole or not there."""

    def __init__(self, folder: Path, source: Source) -> None:
        """Use a folder of its own below `folder`, by the file's identity and its reading."""
        status = source.path.stat()
        identity = f"{FORM}|{source.path.resolve()}|{status.st_size}|{status.st_mtime_ns}"
        mark = hashlib.sha256(f"{identity}|{source.reading}".encode()).hexdigest()[:32]
        self.folder = folder / mark

    def _path(self, span: Span) -> Path:
        return self.folder / f"{span.first}-{span.end}.npz"

    def load(self, span: Span) -> Tally | None:
        """Return a span's tally; None where it is not stored, or is damaged."""
        try:
            with np.load(self._path(span), allow_pickle=False) as kept:
                return _tally_from({name: kept[name] for name in kept.files})
        except (OSError, ValueError, KeyError, IndexError, BadZipFile):
            return None

    def save(self, span: Span, tally: Tally) -> None:
        """Store a span's tally: written beside its goal, then renamed.

        On a full disk nothing is kept and the survey goes on: it only could not be resumed.
        """
        part = self.folder / f".{uuid.uuid4().hex}.part"
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            with part.open("wb") as file:
                np.savez_compressed(file, allow_pickle=False, **_arrays_from(tally))
                file.flush()
                os.fsync(file.fileno())
            part.replace(self._path(span))
        except OSError:
            pass
        finally:
            with suppress(OSError):
                part.unlink(missing_ok=True)


def trim_stores(folder: Path) -> None:
    """Remove the stores not used for longest; a master's serves its next export too."""
    with suppress(OSError):
        stores = sorted(folder.iterdir(), key=lambda path: path.stat().st_mtime, reverse=True)
        for old in stores[MOST_STORES:]:
            shutil.rmtree(old, ignore_errors=True)


def _arrays_from(tally: Tally) -> dict[str, Kept]:
    rows = [
        (f.ticks, f.brightest, f.average, f.p999, f.p9999, f.outside_wider, f.outside_narrower)
        for f in tally.frames
    ]
    return {
        "shape": np.array([*tally.raster, tally.depth, tally.skipped], np.int64),
        # Ticks and counts stay below 2⁵³, so that doubles hold them exactly.
        "frames": np.array(rows, np.float64).reshape(-1, 7),
        "codes": tally.codes,
        "brightest": tally.brightest,
        "cells": tally.cells,
        "steps": tally.steps,
    }


def _tally_from(kept: dict[str, Kept]) -> Tally:
    width, height, depth, skipped = (int(value) for value in kept["shape"])
    frames = tuple(
        FrameFigures(
            ticks=int(row[0]),
            brightest=float(row[1]),
            average=float(row[2]),
            p999=float(row[3]),
            p9999=float(row[4]),
            outside_wider=int(row[5]),
            outside_narrower=int(row[6]),
        )
        for row in kept["frames"]
    )
    counts = (kept["codes"], kept["brightest"], kept["cells"], kept["steps"])
    return Tally((width, height), depth, frames, *counts, skipped=skipped)
