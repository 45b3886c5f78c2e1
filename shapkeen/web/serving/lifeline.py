"""Runs a module as a program that ends when its parent does: `python -m … [FLAG] MODULE ARGUMENTS`.

The parent holds the other end of standard input. When that ends, so does this process, as on a
SIGTERM first; and with all that it started a little later, if it is still there. With GIVES_WAY as
its flag, others come first at the processor.
"""

import os
import runpy
import signal
import sys
import threading
import time

from ..work.giving_way import give_way

GRACE_S = 5.0
GIVES_WAY = "--gives-way"


def _end_with_parent() -> None:
    while os.read(0, 1 << 12):
        pass
    os.kill(os.getpid(), signal.SIGTERM)
    time.sleep(GRACE_S)
    os.killpg(os.getpgid(0), signal.SIGKILL)


def main() -> None:
    """Run the module that the command line names."""
    threading.Thread(target=_end_with_parent, daemon=True).start()
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "shapkeen.web.config.settings")
    sys.argv = sys.argv[1:]
    if sys.argv[0] == GIVES_WAY:
        sys.argv = sys.argv[1:]
        give_way()
    runpy.run_module(sys.argv[0], run_name="__main__", alter_sys=True)


if __name__ == "__main__":
    main()
