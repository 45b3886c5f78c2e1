"""`shapkeen table`: a look-up table that takes a measured drift back."""

import argparse
import json
from collections.abc import Iterator

from ..core.cured.tables import EXPORT, SOURCE, DriftTable, NoTable, table_for
from .progress import compared
from .text import printable

WRITTEN, REFUSED = 0, 3
WHERE = {SOURCE: "to put over the master on its way out", EXPORT: "to put over the export"}


def run_table(call: argparse.Namespace) -> int:
    """Write the table, print what it does, and return the exit status."""
    from ..core.cured.copying import check_free, write_new
    from ..core.reported.table import table_object, table_text

    check_free(call.out)
    made = table_for(compared(call), use=call.use, size=call.size)
    if not isinstance(made, NoTable):
        text = table_text(made, master=call.master.name, export=call.export.name)
        write_new(text.encode(), call.out)
    if call.json:
        print(json.dumps(table_object(made), ensure_ascii=False))
    else:
        print("\n".join(_lines(made, str(call.out))))
    return REFUSED if isinstance(made, NoTable) else WRITTEN


def _lines(made: DriftTable | NoTable, goal: str) -> Iterator[str]:
    """Yield what a look-up table takes back, or why there is none."""
    if isinstance(made, NoTable):
        yield f"No table was written. {made.why}"
        return
    entries = f"{made.table.size} entries" if made.table.kind == "1d" else f"{made.table.size}³"
    yield printable(f"{goal}: {made.table.kind.upper()}, {entries}, {WHERE[made.use]}")
    yield f"undoes  {', '.join(made.undoes) or 'what drifted'}"
    for word, error in (("before", made.before), ("after", made.after)):
        yield f"{word:8}{error.mean:g} {error.unit} (mean), {error.worst:g} (worst)"
    if made.beyond.share:
        yield f"beyond  {made.beyond.share:.2%} of the places: {made.beyond.why}"
