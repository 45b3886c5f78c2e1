"""`shapkeen.error/1`."""

from ..errors import CoreError


def error_object(error: CoreError) -> dict[str, object]:
    """Return the object that stands for an error on the command line."""
    return {
        "schema": "shapkeen.error/1",
        "code": error.code,
        "text": error.text,
        "where": error.where,
    }
