"""Rows of lists, each drawn once for as long as equal ones are shown."""

from functools import lru_cache

from django import template
from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from ..rows import DeliveryRow, TitleSection

register = template.Library()

MOST_ROWS, MOST_SECTIONS = 4000, 400
"""That are kept: a row is a kB or two, a section those of all its rows."""


@register.simple_tag
@lru_cache(MOST_ROWS)
def delivery_row(row: DeliveryRow) -> SafeString:
    """Show a delivery in a list."""
    return render_to_string("library/_delivery_row.html", {"row": row})


@register.simple_tag
@lru_cache(MOST_SECTIONS)
def title_section(section: TitleSection) -> SafeString:
    """Show a title on the Shelf."""
    return render_to_string("library/_shelf_title.html", {"row": section})
