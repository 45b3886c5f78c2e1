"""Published values with their provenance, as data files."""

import json
from functools import lru_cache
from pathlib import Path
from typing import Any


@lru_cache
def load(name: str) -> dict[str, Any]:
    """Return one of the files beside this module."""
    return json.loads((Path(__file__).parent / f"{name}.json").read_text())
