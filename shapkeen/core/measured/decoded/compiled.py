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
    try:
        made = numba.njit(cache=True, nogil=True, boundscheck=False)(function)
    except RuntimeError:  # nowhere to keep it: compiled anew in each process, which takes seconds
        made = numba.njit(nogil=True, boundscheck=False)(function)
    return cast("F", made)
