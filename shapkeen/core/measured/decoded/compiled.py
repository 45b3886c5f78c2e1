"""The compiler's door: one decorator, and the type that its arrays pass as."""

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba

F = TypeVar("F", bound=Callable[..., Any])
Array = Any
"""A NumPy array: the compiler reads its kind from what a function is called with."""


def compiled(function: F) -> F:
    """Return the function compiled at its first call and kept on disk.

    Sums of whole numbers only: no parallel loops, since segments run in processes of their own.
    """
    return _compiled(function, fastmath=False)


def compiled_real(function: F) -> F:
    """Return a function over real numbers compiled, its sums in whatever order is quickest.

    For numbers that are finite, where the last bit does not matter.
    """
    return _compiled(function, fastmath=True)


def _compiled(function: F, *, fastmath: bool) -> F:
    try:
        made = numba.njit(cache=True, nogil=True, boundscheck=False, fastmath=fastmath)(function)
    except RuntimeError:  # nowhere to keep it: compiled anew in each process, which takes seconds
        made = numba.njit(nogil=True, boundscheck=False, fastmath=fastmath)(function)
    return cast("F", made)
