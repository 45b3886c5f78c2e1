"""What a signature binds: one canonical text of promise and verdicts, and its digest."""

import hashlib
import json
from typing import Any

from ..judged import Comparison


def bound_object(comparison: Comparison) -> dict[str, Any]:
    """Return promise and verdicts as a signature binds them: what was asked for, what came."""
    verdicts = sorted(comparison.survival.verdicts, key=lambda one: one.trait)
    return {
        "overall": comparison.survival.overall,
        "verdicts": [
            {"trait": one.trait, "promised": _plain(one.promised), "verdict": one.verdict}
            for one in verdicts
        ],
        "causes": sorted(cause.id for cause in comparison.survival.causes),
    }


def bound_digest(bound: dict[str, Any]) -> str:
    """Return the SHA-256 of what a signature binds, in hexadecimal."""
    text = json.dumps(bound, sort_keys=True, ensure_ascii=False, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()


def _plain(value: Any) -> Any:
    """Return a value as JSON gives it back: what was kept and what is new must be equal."""
    return json.loads(json.dumps(value))
