"""What the child process does for Sign-off: taking the digests of a pair of files."""

from pathlib import Path

from ..work.child import Answer, Report


def digests(request: Answer, report: Report) -> Answer:
    """Return each path's SHA-256, with the state that the file was in before and after."""
    from ...core.digests import sha256_of, state_on_disk

    paths = [Path(path) for path in request["paths"]]
    sizes = [state_on_disk(path).size_bytes for path in paths]
    found, done = [], 0
    for path, size in zip(paths, sizes, strict=True):
        before = state_on_disk(path)
        told = sha256_of(path, lambda part, _, done=done: report(done + part, sum(sizes)))  # type: ignore[misc]
        after = state_on_disk(path)
        found.append(
            {
                "sha256": told,
                "state": [after.size_bytes, after.changed_ns, after.inode_ns],
                "steady": before == after,
            }
        )
        done += size
    return {"files": found}
