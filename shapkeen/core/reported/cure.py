"""`shapkeen.cure/1`: what a corrected copy says otherwise, what it could not, and the proof."""

from ..cured import Cured

JsonObject = dict[str, object]


def cure_object(cured: Cured, copy: str) -> JsonObject:
    """Return the object. copy: the name that was given, null where no copy was written."""
    proof = cured.proof
    return {
        "schema": "shapkeen.cure/1",
        "copy": copy if cured.size_bytes is not None else None,
        "bytes": cured.size_bytes,
        "changes": [
            {
                "trait": change.trait,
                "witness": change.witness,
                "from": change.before,
                "to": change.after,
                "where": change.where,
            }
            for change in cured.changes
        ],
        "left": [
            {"trait": one.trait, "witness": one.witness, "why": one.why} for one in cured.left
        ],
        "coded": {"pictures": proof.pictures, "unchanged": proof.unchanged} if proof else None,
    }
