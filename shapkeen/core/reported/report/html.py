"""The report as one HTML file that needs nothing else: no outside font, script or picture."""

import base64
import hashlib
from collections.abc import Mapping, Sequence
from datetime import datetime
from functools import lru_cache
from pathlib import Path

from jinja2 import Environment, FileSystemLoader
from markupsafe import Markup

from ..figures.glyph import verdict_glyph
from .model import Report

HERE = Path(__file__).parent / "sheet"
FIGURES = Path(__file__).parents[1] / "figures" / "style" / "figures.css"
INKS: Mapping[str, str] = {
    "page": "#ffffff", "sheet": "#ffffff", "raised": "#f4f4f4", "rule": "#b4b4b4",
    "text": "#1c1c1c", "quiet": "#565656", "accent": "#6a5526", "surround": "#9a9a9a",
    "bent": "#7d5600", "lost": "#b3261e", "station": "#dadada", "field": "#858585",
    "face": '"Plex Condensed", sans-serif', "mono": '"Plex Mono", "Plex Condensed", monospace',
}  # fmt: skip
"""The light theme's inks, on paper."""
FACES = (
    ("Plex Condensed", 400, "plex-condensed-400.woff2"),
    ("Plex Condensed", 500, "plex-condensed-500.woff2"),
    ("Plex Mono", 400, "plex-mono-400.woff2"),
)


def report_html(reports: Sequence[Report], *, title: str, paper: str = "", told: str = "") -> str:
    """Return the page. paper: A4 or Letter, for print; told: a last line.

    Its own policy forbids all that is not in it.
    """
    style = _inked("\n".join((_faces(), _style(), figure_style())))
    digest = base64.b64encode(hashlib.sha256(style.encode()).digest()).decode()
    policy = f"default-src 'none'; img-src data:; font-src data:; style-src 'sha256-{digest}'"
    return (
        _environment()
        .get_template("report.html.j2")
        .render(
            reports=reports,
            title=title,
            style=Markup(style),  # noqa: S704  (our own style sheets)
            policy=policy,
            paper=paper,
            told=told,
        )
    )


def figure_style() -> str:
    """Return how drawings are drawn, with the inks of paper."""
    return _inked(FIGURES.read_text())


@lru_cache(maxsize=1)
def _environment() -> Environment:
    made = Environment(
        loader=FileSystemLoader(HERE), autoescape=True, trim_blocks=True, lstrip_blocks=True
    )
    made.filters.update(
        drawn=Markup,
        png=_png,
        time=_time,
        glyph=lambda verdict: Markup(verdict_glyph(verdict)),  # noqa: S704  (our own drawing)
    )
    return made


def _style() -> str:
    return (HERE / "report.css").read_text()


@lru_cache(maxsize=1)
def _faces() -> str:
    parts = []
    for family, weight, name in FACES:
        told = base64.b64encode((HERE / name).read_bytes()).decode()
        parts.append(
            f'@font-face {{ font-family: "{family}"; font-weight: {weight}; '
            f'src: url("data:font/woff2;base64,{told}") format("woff2"); }}'
        )
    return "\n".join(parts)


def _inked(style: str) -> str:
    """Return a style sheet with its inks put in: not every reader knows variables in drawings."""
    for name, ink in INKS.items():
        style = style.replace(f"var(--sk-{name})", ink)
    return style


def _png(png: bytes) -> str:
    return "data:image/png;base64," + base64.b64encode(png).decode()


def _time(value: datetime | None) -> str:
    return f"{value:%Y-%m-%d %H:%M} UTC" if value else ""
