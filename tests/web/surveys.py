"""Surveys for web tests: each pair is measured once a run, in the real child; later ones are given
what that one found, for the files as they lie there now."""

import hashlib
import json
import shutil
import tempfile
from dataclasses import asdict
from pathlib import Path
from typing import Any
from unittest import mock

from filelock import FileLock

from shapkeen.core.compared import state_of, survey_key
from shapkeen.core.declared import fingerprint
from shapkeen.core.judged import read_pair_by
from shapkeen.core.judged.form import declaration_from_bytes
from shapkeen.core.measured import SURVEY_FORM
from shapkeen.core.promised import promise_from_layers, promise_from_master
from shapkeen.web.bench import surveying, works
from shapkeen.web.library import services
from shapkeen.web.library.works import read
from shapkeen.web.work.boundary import run_child

RUN = Path(tempfile.gettempdir()) / "shapkeen-surveys"
"""Below the run's own temporary folder, which goes with it."""


def remember(case: Any) -> None:
    """Have a test class read equal files once a run, and measure equal pairs once."""
    for patched, once in ((surveying, remembered), (services, read_once)):
        patch = mock.patch.object(patched, "run_child", once)
        patch.start()
        case.addClassCleanup(patch.stop)


def read_once(work: Any, **request: Any) -> dict[str, Any]:
    """Do as run_child, but read the headers of files with equal bytes and names once."""
    path = Path(request["path"])
    if work is not read:
        return run_child(work, **request)
    with path.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()[:32]
    kept = RUN / f"{digest}-{hashlib.sha256(path.name.encode()).hexdigest()[:8]}.json"
    RUN.mkdir(exist_ok=True)
    with FileLock(f"{kept}.lock"):
        if not kept.exists():
            kept.write_text(json.dumps(run_child(work, **request)))  # what cannot be read raises
        found: dict[str, Any] = json.loads(kept.read_text())
    return found | {"changed_ns": fingerprint(path).changed_ns}


def remembered(work: Any, **request: Any) -> dict[str, Any]:
    """Do as run_child, but measure equal pairs once."""
    told = json.dumps(
        [SURVEY_FORM, request["promises"], request["frames"], request.get("quick", False)]
    ).encode()
    parts = (Path(request[side]).read_bytes() for side in ("master", "export"))
    folder = RUN / hashlib.sha256(told + b"".join(parts)).hexdigest()[:32]
    RUN.mkdir(exist_ok=True)
    with FileLock(f"{folder}.lock"):
        if not (folder / "found.json").exists():
            found = run_child(work, **request)
            shutil.copytree(request["goal"], folder, dirs_exist_ok=True)
            (folder / "found.json").write_text(json.dumps(found))
            return found
    shutil.copytree(folder, request["goal"], dirs_exist_ok=True)
    found = json.loads((folder / "found.json").read_text())
    states = [state_of(Path(request[side])) for side in ("master", "export")]
    kept = [(folder / name).read_bytes() for name in (works.MASTER, works.EXPORT)]
    master, export = map(declaration_from_bytes, kept)
    wanted = promise_from_layers(request["promises"])
    reading = read_pair_by(promise_from_master(master, overrides=wanted), master, export)
    found["states"] = [asdict(state) for state in states]
    stage = found["stage"]
    found["key"] = survey_key(*states, reading, frames=request["frames"], stage=stage)
    request["progress"](1, 1)
    return found
