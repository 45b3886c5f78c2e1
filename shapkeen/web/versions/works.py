"""What the child process does for versions: making one."""

from pathlib import Path

from ..work.child import Answer, Report


def make(request: Answer, report: Report) -> Answer:
    """Make a version; return what an editor should know of it."""
    from ...core.cured.versions import make_version, recipe_from_json
    from ...core.measured.spans.chosen import chosen_pool
    from ...core.promised.specification import specification_from_json

    said = request["specification"]
    made = make_version(
        Path(request["master"]),
        recipe_from_json(request["recipe"]),
        Path(request["goal"]),
        pool=chosen_pool(request["workers"]),
        progress=report,
        specification=specification_from_json(said) if said else None,
    )
    return {"frames": made.frames, "notes": list(made.notes), "left": list(made.left)}
