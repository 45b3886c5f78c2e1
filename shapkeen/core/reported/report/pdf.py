"""The report as PDF: tagged for screen readers (PDF/UA-1), fonts embedded, drawings as vectors."""

import re
from collections.abc import Sequence

from ...errors import UsageError
from .html import figure_style, report_html
from .model import Report

VARIANT = "pdf/ua-1"
PANGO = "libpango-1.0-0 libpangoft2-1.0-0 libharfbuzz-subset0"


def report_pdf(
    reports: Sequence[Report], *, title: str, paper: str = "A4", told: str = ""
) -> bytes:
    """Return the PDF. paper: A4 or Letter. Raises UsageError where Pango is not installed."""
    try:
        from weasyprint import HTML
    except OSError as error:
        raise UsageError(
            f"PDF needs Pango, which is not installed: apt-get install {PANGO}. The HTML report "
            "holds the same and prints as well.",
            code="no-pango",
            where="pdf",
        ) from error
    page = report_html(reports, title=title, paper=paper, told=told)
    made: bytes = HTML(string=_own_styles(page)).write_pdf(pdf_variant=VARIANT)
    return made


def _own_styles(page: str) -> str:
    """Return the page with each drawing's style in the drawing: it is rendered by itself."""
    face = "text { font-family: 'Plex Condensed'; }"  # a page's own face does not reach in there
    style = f"<style>{face} {figure_style()}</style>"
    return re.sub(r"(<svg\b[^>]*>)", lambda found: found[1] + style, page)
