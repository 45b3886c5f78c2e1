"""Room on the disk: work that would run out of it waits, and goes on by itself."""

import errno
import shutil

from django.conf import settings

LEAST_BYTES = 200_000_000
"""What a survey, its parts and the database may need before anyone looks again."""


def missing_words() -> str:
    """Return what is missing on the disk of the data, in words; empty where there is room."""
    folder = settings.CONF.data_dir
    try:
        free = shutil.disk_usage(folder).free
    except OSError as error:
        return f"The folder of Shapkeen's data cannot be reached ({error.strerror})."
    if free >= LEAST_BYTES:
        return ""
    return (
        f"The disk of Shapkeen's data is full: {free / 1e6:.0f} MB are free, and "
        f"{LEAST_BYTES / 1e6:.0f} MB are needed. Make room; work goes on by itself."
    )


def is_out_of_room(error: BaseException) -> bool:
    """Return whether something failed for want of room, here or in a child process."""
    if isinstance(error, OSError):
        return error.errno in (errno.ENOSPC, errno.EDQUOT)
    told = f"{error} {getattr(error, 'details', '')}"
    return "No space left on device" in told or "database or disk is full" in told
