"""`shapkeen.error/1`."""

from ..errors import CoreError


def error_object(error: CoreError) -> dict[str, object]:
    """Return the object that stands for an error on the command line."""
    made: dict[str, object] = {
        "schema": "shapkeen.error/1",
        "code": error.code,
        "text": error.text,
        "where": error.where,
    }
    return made | ({"file": error.file} if error.file else {})
