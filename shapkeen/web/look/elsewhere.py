"""What other processes of the web server are drawing, told to each other through what is kept.

Stills are asked for over several connections, and those may end in several processes. Without a
word between them each would decode the same stretch of a file for itself.
"""

import hashlib
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ..work import made

FRESH_S = 5.0
"""A process that was killed while it drew is believed for so long."""
POLL_S = 0.02


@dataclass(frozen=True, slots=True)
class Told:
    """What one process draws of a file. left: the frames that are still to come, in order."""

    token: str
    display: str
    left: tuple[int, ...]


def _key(source: Path) -> str:
    return hashlib.sha256(f"drawing {source}".encode()).hexdigest()


def told(source: Path) -> Told | None:
    """Return what is being drawn of a file; None where nothing is."""
    found = made.told(_key(source))
    return Told(*found) if isinstance(found, tuple) else None


def tell(source: Path, drawn: Told) -> None:
    """Tell what is being drawn of a file from now on; whoever drew of it before ends with that."""
    made.tell(_key(source), (drawn.token, drawn.display, drawn.left), FRESH_S)


def forget(source: Path, token: str) -> None:
    """Tell that nothing is drawn of a file any more, where nobody took it over."""
    if not is_taken_over(source, token):
        made.untell(_key(source))


def is_taken_over(source: Path, token: str) -> bool:
    """Return whether somebody draws of a file since what was told with a token."""
    found = told(source)
    return found is not None and found.token != token


def wait_for(
    source: Path, frame: int, display: str, *, soon: int, is_kept: Callable[[int], bool]
) -> bool:
    """Return whether another process draws a frame, once it is there.

    soon: a frame is waited for where it is among so many next ones.
    """
    found = told(source)
    if found is None or found.display != display or frame not in found.left[:soon]:
        return False
    while not is_kept(frame):
        found = told(source)
        if found is None or found.display != display or frame not in found.left:
            break
        time.sleep(POLL_S)
    return is_kept(frame)
