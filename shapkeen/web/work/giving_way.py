"""Giving way: what computes for long leaves the processor to whoever waits at a page."""

import os
import time
from pathlib import Path

from ..config.conf import giving_way_steps

GROUP = Path("/proc/self/autogroup")
TRIES, AGAIN_S = 20, 0.11
"""The kernel takes one such wish in a tenth of a second from everybody but root."""


def give_way() -> None:
    """Have this process, and what it starts from now on, come after others. Once is enough."""
    os.nice(max(0, giving_way_steps() - os.nice(0)))
    weigh_session()


def weigh_session() -> None:
    """Have this process's session come after others as the process does: after each setsid.

    Linux shares the processor out among sessions first and heeds niceness only within one of them
    (sched(7), "The autogroup feature"): alone in its session, the nicest process gives way to
    nobody. Does nothing where the kernel shares out otherwise, or the process is not nice.
    """
    steps = os.nice(0)
    for _ in range(TRIES if steps > 0 else 0):
        try:
            GROUP.write_text(f"{steps}")
        except BlockingIOError:
            time.sleep(AGAIN_S)
        except OSError:
            return
        else:
            return
