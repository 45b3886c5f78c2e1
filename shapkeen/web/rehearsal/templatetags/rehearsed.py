"""Filters of the pages of rehearsals."""

from typing import Any

from django import forms, template

from ....core.geometry.codec_profiles import CODEC_NAMES
from ....core.promised import freeze, trait_by_name
from ..seen import time_words

register = template.Library()
ABSENT = {"projection": "flat", "stereo": "one eye", "rotation": "0°"}


@register.filter
def soon(seconds: float) -> str:
    """Return a time after the upload as people say it."""
    return time_words(seconds)


@register.filter
def taken_words(value: Any, name: str) -> str:
    """Return what a trait is taken for; absent ones by what that means to viewers."""
    if value is None:
        return ABSENT.get(name, "not said")
    trait = trait_by_name(name)
    return trait.form.show(freeze(value)) if trait else str(value)


@register.filter
def codec_words(codec: str) -> str:
    """Return a codec's name as the trade writes it."""
    return CODEC_NAMES.get(codec, codec)


@register.filter
def words(text: str) -> list[str]:
    """Return the words of a text."""
    return text.split()


@register.filter
def field(form: forms.Form, name: str) -> forms.BoundField:
    """Return a form's field by its name."""
    return form[name]
