"""`shapkeen.table/1`, and the `.cube` text of a table that takes a drift back."""

from ..colour.cube_file import cube_text
from ..cured.tables import SOURCE, ColourError, DriftTable, NoTable

JsonObject = dict[str, object]


def table_object(made: DriftTable | NoTable) -> JsonObject:
    """Return the object; kind and size are null where no table was made."""
    shared: JsonObject = {"schema": "shapkeen.table/1", "for": made.use}
    if isinstance(made, NoTable):
        figures = {"before": _error(made.before), "after": _error(made.after)}
        return {**shared, "kind": None, "size": None, "undoes": [], **figures, "why": made.why}
    return {
        **shared,
        "kind": made.table.kind,
        "size": made.table.size,
        "undoes": list(made.undoes),
        "before": _error(made.before),
        "after": _error(made.after),
        "beyond": {"share": made.beyond.share, "why": made.beyond.why},
        "extrapolated": made.extrapolated,
    }


def _error(error: ColourError | None) -> JsonObject | None:
    if error is None:
        return None
    return {"mean": error.mean, "worst": error.worst, "unit": error.unit}


def table_text(made: DriftTable, *, master: str, export: str) -> str:
    """Return the table as `.cube` text. master, export: the names of the files it was made from."""
    where = "the master on its way out" if made.use == SOURCE else "the export"
    undone = ", ".join(made.undoes) or "a drift of light and colour"
    comments = [
        f"Takes back {undone}, as {export} shows it against {master}.",
        f"Put it over {where}, once, and nowhere else.",
        "Signals: R'G'B' of the promised coding, black at 0 and white at 1, whatever the range of "
        "the file (limited range is brought to 0 to 1 first). Lattices: tetrahedral.",
        f"Before: {made.before.mean} {made.before.unit} (mean), {made.before.worst} (worst). "
        f"After: {made.after.mean} (mean), {made.after.worst} (worst).",
        f"Cannot come back: {made.beyond.share:.2%} of the places. "
        f"Without a colour of the picture near: {made.extrapolated:.1%} of the table.",
    ]
    return cube_text(made.table, title=f"Takes back {undone}", comments=comments)
