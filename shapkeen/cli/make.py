"""`shapkeen make`: versions of a master by recipes, each held against its promise at once."""

import argparse
import json
import time
from pathlib import Path
from typing import TYPE_CHECKING

from ..core.errors import CoreError, UsageError
from .compare import EXIT_BY_OVERALL, FROM_BEST
from .progress import ProgressLine
from .text import printable, survival_lines

if TYPE_CHECKING:
    from ..core.cured.versions import Recipe


def run_make(call: argparse.Namespace) -> int:
    """Make every version, print what became of each, and return the worst exit status."""
    from ..core.cured.versions import read_recipe_file
    from ..core.reported.made import made_object

    read = [(path, read_recipe_file(path)) for path in call.recipe]
    asked = [(path, one) for path, recipe in read for one in recipe.files]
    recipes = [recipe for _, recipe in asked]
    goals = _checked(call, asked)
    rows, status = [], 0
    for recipe, goal in zip(recipes, goals, strict=True):
        row = _made(call, recipe, goal)
        rows.append(row)
        status = max(status, EXIT_BY_OVERALL[str(row["overall"])], key=FROM_BEST.index)
    if call.json:
        print(json.dumps(made_object(rows), ensure_ascii=False))
    return status


def _checked(call: argparse.Namespace, asked: list[tuple[Path, "Recipe"]]) -> list[Path]:
    """Return where versions go; raises UsageError before anything is made where one cannot be."""
    from ..core.cured.copying import check_free
    from ..core.cured.versions import check_recipe, name_of

    if not call.out.is_dir():
        raise UsageError("There is no such folder.", code="bad-call", where="--out")
    goals: list[Path] = []
    for path, recipe in asked:
        try:
            goal = call.out / name_of(check_recipe(call.master, recipe))
            check_free(goal)
            if goal in goals:
                raise UsageError(
                    f"Two versions would write {goal.name}: name them apart.",
                    code="bad-recipe",
                    where="name",
                )
            goals.append(goal)
        except CoreError as error:
            error.file = error.file or f"recipe {path.name}"
            raise
    return goals


def _made(call: argparse.Namespace, recipe: "Recipe", goal: Path) -> dict[str, object]:
    from ..core.compared import compare_files
    from ..core.cured.versions import make_version

    line = ProgressLine(printable(recipe.name))
    started = time.monotonic()
    try:
        made = make_version(call.master, recipe, goal, progress=line)
        spent = time.monotonic() - started
        found = compare_files(call.master, goal, overrides=made.asked, progress=line)
    finally:
        line.clear()
    if not call.json:
        print(printable(f"{recipe.name}: {goal}, {made.frames} frames in {spent:.1f} s"))
        for note in made.notes:
            print(note)
        print("\n".join(survival_lines(found.survival)), flush=True)
    length = found.export.video.duration_s
    return {
        "recipe": recipe.name,
        "file": str(goal),
        "frames": made.frames,
        "seconds": round(spent, 3),
        "times_real": round(spent / length, 3) if length else None,
        "overall": found.survival.overall,
    }
