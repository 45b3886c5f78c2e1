"""Work on its way to another machine: where files lie there may differ, by media root."""

import io
import os
import pickle
from collections.abc import Callable, Mapping
from pathlib import Path, PurePath
from typing import Any

from ...errors import InternalError

ROOTS = "SHAPKEEN_MEDIA_ROOTS"
"""`name=path` pairs, parted by the path separator: on each machine, where its media lie."""


def roots_here() -> dict[str, Path]:
    """Return the media roots of this machine, by name."""
    pairs = (pair.partition("=") for pair in os.environ.get(ROOTS, "").split(os.pathsep))
    return {name: Path(path).resolve() for name, _, path in pairs if name and path}


class _Packer(pickle.Pickler):
    """Writes every path below a root as the root's name and the way from there."""

    def __init__(self, goal: io.BytesIO, roots: Mapping[str, Path]) -> None:
        super().__init__(goal, protocol=pickle.HIGHEST_PROTOCOL)
        self._roots = roots

    def reducer_override(self, value: Any) -> Any:
        """Pickle as usual, but for paths below a root."""
        if isinstance(value, PurePath):
            for name, root in self._roots.items():
                if value.is_relative_to(root):
                    return place_here, (name, value.relative_to(root).as_posix())
        return NotImplemented


def pack(work: Callable[..., Any], given: tuple[Any, ...], roots: Mapping[str, Path]) -> bytes:
    """Return a call as bytes. Paths of it are resolved where they lie below one of the roots."""
    goal = io.BytesIO()
    _Packer(goal, roots).dump((work, given))
    return goal.getvalue()


def do_packed(packed: bytes) -> Any:
    """Do what was packed on another machine, and return what it gives.

    Raises what the work does, and InternalError where a media root is not known here.
    """
    work, given = pickle.loads(packed)  # noqa: S301  (of our own cluster, as all that Dask sends)
    return work(*given)


def place_here(name: str, way: str) -> Path:
    """Return where a file of a media root lies on this machine."""
    root = roots_here().get(name)
    if root is None:
        raise InternalError(
            f"This machine of the cluster does not know the media root {name}. Start its workers "
            f"with {ROOTS}={name}=<folder>.",
            code="cluster-root",
            where=os.uname().nodename,
        )
    return root / way
