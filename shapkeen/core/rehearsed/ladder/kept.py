"""Figures that lie beside a rendition, so that it is measured once."""

import json
from pathlib import Path

import cattrs

from .figures import Figures

FORM = 1
_CONVERTER = cattrs.Converter()


def keep_figures(rendition: Path, figures: Figures) -> None:
    """Keep figures beside a rendition; they have their name only once they are whole."""
    goal = rendition.with_suffix(".figures.json")
    part = goal.with_suffix(".part")
    part.write_text(json.dumps({"form": FORM, "figures": _CONVERTER.unstructure(figures)}))
    part.replace(goal)


def kept_figures(rendition: Path) -> Figures | None:
    """Return what is kept beside a rendition; None where nothing that can be read is."""
    try:
        kept = json.loads(rendition.with_suffix(".figures.json").read_text())
        if kept["form"] != FORM:
            return None
        return _CONVERTER.structure(kept["figures"], Figures)
    except (OSError, ValueError, KeyError, cattrs.BaseValidationError):
        return None
