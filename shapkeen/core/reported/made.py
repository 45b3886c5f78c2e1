"""`shapkeen.made/1`: what became of recipes."""

from collections.abc import Sequence

JsonObject = dict[str, object]


def made_object(versions: Sequence[JsonObject]) -> JsonObject:
    """Return the object. versions: recipe, file, frames, seconds, times_real and overall of each.

    times_real: seconds that making took ÷ playing time, None where that is unknown.
    """
    return {"schema": "shapkeen.made/1", "versions": list(versions)}
