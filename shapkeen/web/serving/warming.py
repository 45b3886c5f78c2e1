"""Reading before the first request what it would have to wait for: views and templates."""

from pathlib import Path

from django.conf import settings
from django.template.loader import get_template
from django.urls import get_resolver


def warm() -> None:
    """Load every view and compile every template; they are kept from then on."""
    get_resolver().url_patterns  # noqa: B018  (asking for them loads them)
    folder: Path = settings.BASE_DIR / "shapkeen/web/templates"
    for path in sorted(folder.rglob("*.html")):
        get_template(str(path.relative_to(folder)))
