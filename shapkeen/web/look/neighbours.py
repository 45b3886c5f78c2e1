"""Stills beside the one that is asked for: drawn behind its back, by the child that drew it.

To show one frame out of the middle of a long group, the group is decoded up to it; those who step
on from there find the next ones drawn. Whoever asks for another place of the file stops that: what
somebody waits for comes first. What other processes of the web server draw is asked (elsewhere.py).
"""

import base64
import threading
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from uuid import uuid4

from ...core.errors import CoreError
from ..work.boundary import run_child
from ..work.errors import StoppedError
from . import elsewhere, works

BEHIND, BEFORE = 24, 12
"""Frames that are drawn beside the one asked for: a second of film on, half a second back."""
WORTH_WAITING = 3
"""A frame that is the next but so many to be drawn is waited for."""
Keep = Callable[[int, bytes], None]


def neighbours_of(frame: int, is_known: Callable[[int], bool]) -> list[int]:
    """Return the frames beside one that are not drawn yet, those behind it first."""
    near = *range(frame + 1, frame + BEHIND + 1), *range(max(frame - BEFORE, 0), frame)
    return [number for number in near if not is_known(number)]


@dataclass(frozen=True, slots=True)
class Order:
    """What is to be drawn of one file, in this order, and where it goes to.

    request: what the child is asked beside the numbers. is_kept: whether a picture is there. keep:
    takes each once it is drawn.
    """

    source: Path
    display: str
    frames: tuple[int, ...]
    request: dict[str, Any]
    is_kept: Callable[[int], bool]
    keep: Keep


@dataclass(slots=True)
class _Drawing:
    """One order under way. left: what is still to come, in order."""

    order: Order
    left: list[int]
    changed: threading.Condition = field(default_factory=threading.Condition)
    token: str = field(default_factory=lambda: uuid4().hex)
    stopped: bool = False
    error: BaseException | None = None

    def will_draw(self, frame: int, display: str) -> bool:
        """Return whether a frame comes soon enough to be waited for."""
        return self.order.display == display and frame in self.left[: WORTH_WAITING + 1]

    def run(self) -> None:
        """Draw all; called in a thread of its own."""
        first, *others = self.order.frames
        self._tell()
        try:
            with suppress(StoppedError):
                run_child(
                    works.around,
                    part=self._take,
                    wanted=self._is_wanted,
                    frame=first,
                    neighbours=others,
                    **self.order.request,
                )
        except (CoreError, OSError) as error:
            self.error = error
        finally:
            elsewhere.forget(self.order.source, self.token)
            with self.changed:
                self.left.clear()
                self.changed.notify_all()

    def _tell(self) -> None:
        drawn = elsewhere.Told(self.token, self.order.display, tuple(self.left))
        elsewhere.tell(self.order.source, drawn)

    def _take(self, part: dict[str, Any]) -> bool:
        self.order.keep(part["frame"], base64.b64decode(part["png"]))
        with self.changed:
            # Those before it in order are not coming: the file ends there.
            at = self.left.index(part["frame"]) if part["frame"] in self.left else -1
            del self.left[: at + 1]
            self.changed.notify_all()
        if elsewhere.is_taken_over(self.order.source, self.token):
            self.stopped = True
        else:
            self._tell()
        return self._is_wanted()

    def _is_wanted(self) -> bool:
        """Return whether to go on: for the first frame, somebody waits in any case."""
        return not self.stopped or self.order.frames[0] in self.left

    def wait_for(self, frame: int) -> None:
        """Return once a frame is drawn, or will not be; raises what drawing it raised."""
        with self.changed:
            self.changed.wait_for(lambda: frame not in self.left)
        if self.error is not None and frame == self.order.frames[0]:
            raise self.error


_running: dict[Path, tuple[_Drawing, threading.Thread]] = {}
_lock = threading.Lock()


def draw_around(order: Order) -> None:
    """Return once the first frame of an order is drawn; the others follow behind.

    Raises CoreError where that frame cannot be drawn.
    """
    frame = order.frames[0]
    if _comes_from_elsewhere(order, frame):
        return
    with _lock:
        drawing, thread = _running.get(order.source, (None, None))
        if drawing is None or not drawing.will_draw(frame, order.display):
            if drawing is not None:
                drawing.stopped = True
            drawing = _Drawing(order, list(order.frames))
            thread = threading.Thread(target=drawing.run, daemon=True)
            _running[order.source] = drawing, thread
            thread.start()
    drawing.wait_for(frame)


def _comes_from_elsewhere(order: Order, frame: int) -> bool:
    with _lock:
        ours, _ = _running.get(order.source, (None, None))
        if ours is not None and ours.left and not ours.stopped:
            return False
    return elsewhere.wait_for(
        order.source, frame, order.display, soon=WORTH_WAITING + 1, is_kept=order.is_kept
    )


def end_all() -> None:
    """Return once nothing is drawn any more."""
    with _lock:
        ended = [*_running.values()]
        _running.clear()
    for drawing, _ in ended:
        drawing.stopped = True
    for _, thread in ended:
        thread.join()
