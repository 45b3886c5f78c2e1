"""What the child process does for the Bench: measuring a pair."""

from pathlib import Path

from ..work.child import Answer, Report, hand_over

FINDINGS, DRAWN, SERIES, LOOKS = "findings", "drawn", "series", "looks"
MASTER, EXPORT = "master-declaration", "export-declaration"


def cure(request: Answer, report: Report) -> Answer:
    """Write a corrected copy; return what it says otherwise, and what could not be said."""
    from ...core.cured import checked, cure_file
    from ...core.errors import UnreadableFileError
    from ...core.reported.cure import cure_object

    export = Path(request["export"])
    wishes = {name: checked(name, value) for name, value in request["wishes"].items()}
    made = cure_file(export, Path(request["goal"]), wishes, told=report)
    if made.size_bytes is None:
        raise UnreadableFileError(
            "No copy was written: nothing of what was asked for can be said in this kind of file. "
            + " ".join(dict.fromkeys(one.why for one in made.left)),
            code="cannot-say",
            where=export.name,
        )
    told = cure_object(made, request["goal"])
    return {"changes": told["changes"], "left": told["left"]}


def load() -> None:
    """Import what measuring needs, and its loops where they were compiled before."""
    from ...core import cured  # noqa: F401
    from ...core.compared import alone, pair  # noqa: F401
    from ...core.cured import versions  # noqa: F401
    from ...core.measured.frame_statistics.warm import are_compiled, warm
    from ...core.measured.survey import pair as survey_of_pair  # noqa: F401
    from ...core.reported import declaration  # noqa: F401

    if are_compiled():
        warm()


def preview(request: Answer, _report: Report) -> Answer:
    """Return what a corrected copy would say; none is written."""
    from ...core.cured import checked, preview_copy
    from ...core.reported.cure import cure_object

    wishes = {name: checked(name, value) for name, value in request["wishes"].items()}
    made = preview_copy(Path(request["export"]), wishes)
    return {**cure_object(made, ""), "can": made.size_bytes is not None, "complete": made.complete}


def survey(request: Answer, report: Report) -> Answer:
    """Measure a pair; what is large goes into files of the folder `goal`."""
    from dataclasses import asdict

    from ...core.compared import survey_files
    from ...core.compared.alone import look_at
    from ...core.judged.form import declaration_to_bytes
    from ...core.measured.spans.chosen import chosen_pool
    from ...core.measured.survey.form import (
        drawn_to_bytes,
        looks_to_bytes,
        series_to_bytes,
        survey_to_bytes,
    )
    from ...core.promised import promise_from_layers
    from ...core.reported.declaration import declaration_object

    made = survey_files(
        Path(request["master"]),
        Path(request["export"]),
        overrides=promise_from_layers(request["promises"]),
        frames=request["frames"],
        pool=chosen_pool(request["workers"]),
        folder=Path(request["folder"]) if request.get("folder") else None,
        progress=report,
        worst=lambda row: hand_over({"frame": row.export_frame, "ssim": row.ssim}),
        quick=request.get("quick", False),
    )
    goal = Path(request["goal"])
    if not request.get("quick"):
        looks = [
            look_at(Path(request["master"]), made.master),
            look_at(Path(request["export"]), made.export),
        ]
        (goal / LOOKS).write_bytes(looks_to_bytes(looks))
    (goal / FINDINGS).write_bytes(survey_to_bytes(made.survey))
    (goal / DRAWN).write_bytes(drawn_to_bytes(made.survey))
    (goal / SERIES).write_bytes(series_to_bytes(made.survey.series))
    (goal / MASTER).write_bytes(declaration_to_bytes(made.master))
    (goal / EXPORT).write_bytes(declaration_to_bytes(made.export))
    return {
        "key": made.key,
        "read_s": made.read_s,
        "stage": made.survey.stage,
        "states": [asdict(state) for state in made.states],
        "declarations": [declaration_object(one) for one in (made.master, made.export)],
    }
