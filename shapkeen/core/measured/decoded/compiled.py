"""The compiler's door: two decorators, and the type that their arrays pass as."""

from collections.abc import Callable
from functools import cached_property, partial, update_wrapper
from typing import Any, TypeVar, cast

F = TypeVar("F", bound=Callable[..., Any])
Array = Any
"""A NumPy array: the compiler reads its kind from what a function is called with."""


def compiled(function: F) -> F:
    """Return the function compiled at its first call and kept on disk.

    Sums of whole numbers only: no parallel loops, since segments run in processes of their own.
    """
    return cast("F", _Loop(function, fastmath=False))


def compiled_real(function: F) -> F:
    """Return a function over real numbers compiled, its sums in whatever order is quickest.

    For numbers that are finite, where the last bit does not matter.
    """
    return cast("F", _Loop(function, fastmath=True))


class _Loop:
    """A function whose compiler is loaded at its first call, or when a compiled one calls it.

    The compiler takes 90 MB and half a second: a process that shares out work needs neither.
    """

    def __init__(self, function: Callable[..., Any], *, fastmath: bool) -> None:
        """Keep what to compile."""
        self._function, self._fastmath = function, fastmath
        update_wrapper(self, function)

    def __call__(self, *given: Any) -> Any:
        """Do what the function does."""
        return self.made(*given)

    @cached_property
    def made(self) -> Any:
        """The function as the compiler gives it."""
        import numba

        _make_known()
        compile_ = partial(numba.njit, nogil=True, boundscheck=False, fastmath=self._fastmath)
        try:
            return compile_(cache=True)(self._function)
        except RuntimeError:  # nowhere to keep it: compiled anew in each process, takes seconds
            return compile_()(self._function)


def _make_known() -> None:
    """Tell the compiler what a loop is where another calls it by its name."""
    from numba.extending import typeof_impl

    if _Loop not in typeof_impl.registry:

        @typeof_impl.register(_Loop)
        def _(loop: _Loop, context: Any) -> Any:
            return typeof_impl(loop.made, context)
