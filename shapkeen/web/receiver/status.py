"""What a service answers of an upload, at a moment of simulated time."""

import time
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from ...core.rehearsed.stand_in import StandIn
from .faults import Faults
from .store import Upload

Answer = dict[str, Any]


def simulated_s(meta: Mapping[str, Any], speed: float) -> float:
    """Return how many simulated seconds have passed since all came; 0 before."""
    whole = meta.get("whole_at")
    return max(time.time() - whole, 0.0) * speed if whole else 0.0


def status_of(upload: Upload, stand_in: StandIn, faults: Faults, at_s: float) -> Answer:
    """Return an upload's state, what was found at the door, and its stages.

    at_s: simulated seconds since all came. A rendition's address stands there once it is there.
    """
    meta = upload.meta
    found = meta.get("found") or {}
    told: Answer = {
        "upload": upload.key,
        "name": meta["name"],
        "size": meta["size"],
        "offset": upload.offset,
        "state": meta["state"],
        "simulated_s": round(at_s),
    }
    if "error" in meta:
        told["error"] = meta["error"]
    for key in ("accepted", "refusals", "warnings", "recognised", "taken_wrongly", "sound"):
        if key in found:
            told[key] = found[key]
    if meta["state"] == "ready":
        told["stages"] = [_stage(one.name, upload, faults, at_s) for one in stand_in.stages]
    return told


def renditions_at(upload: Upload, faults: Faults, at_s: float) -> dict[str, Path]:
    """Return the renditions that are there at a simulated second: file's name → file."""
    found = upload.meta.get("found") or {}
    made = {}
    for one in found.get("renditions", []):
        if one["after_s"] <= at_s and one["stage"] != faults.lose_stage:
            file = file_of(one, upload)
            made[file.name] = file
    return made


def file_of(rendition: Mapping[str, Any], upload: Upload) -> Path:
    """Return where a rendition lies: what was sent, where that is played."""
    return Path(rendition["file"]) if rendition["file"] else upload.file


def _stage(name: str, upload: Upload, faults: Faults, at_s: float) -> Answer:
    made = [one for one in upload.meta["found"]["renditions"] if one["stage"] == name]
    after = max((one["after_s"] for one in made), default=None)
    if name == faults.lose_stage:
        state = "lost"
    elif after is None:
        state = "nothing to make"
    else:
        state = "there" if after <= at_s else "waiting"
    return {
        "name": name,
        "after_s": after,
        "state": state,
        "renditions": [_rendition(one, upload) for one in made] if state == "there" else [],
    }


def _rendition(one: Mapping[str, Any], upload: Upload) -> Answer:
    file = file_of(one, upload)
    address = f"/uploads/{upload.key}/renditions/{file.name}"
    return {**one, "file": address, "size": file.stat().st_size}
