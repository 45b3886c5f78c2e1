"""What the child process does for the library: reading headers."""

from pathlib import Path

from ..work.child import Answer, Report


def read(request: Answer, _report: Report) -> Answer:
    """Return what a file declares, and its state."""
    from ...core.declared import fingerprint, read_declaration
    from ...core.reported.declaration import declaration_object

    path = Path(request["path"])
    declared = declaration_object(read_declaration(path))
    state = fingerprint(path)
    return {
        "declaration": declared,
        "size_bytes": state.size_bytes,
        "changed_ns": state.changed_ns,
    }


def outline(request: Answer, _report: Report) -> Answer:
    """Return what a file declares, with every part and field found in it."""
    from ...core.declared import read_declaration, read_outline
    from ...core.reported.declaration import declaration_object
    from ...core.reported.sheet import outline_object

    path = Path(request["path"])
    return {
        "declaration": declaration_object(read_declaration(path)),
        "outline": outline_object(read_outline(path)),
    }
