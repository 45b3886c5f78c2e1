"""What must survive: the registry of traits, and promises with the origin of each value."""

from .digest import promise_digest
from .file import promise_from_json, promise_from_layers, promise_to_json, read_promise_file
from .forms import SHARPENED, freeze
from .master import (
    SHOWN_FLAT,
    SHOWN_TWICE,
    TWO_EYES,
    promise_beside,
    promise_from_master,
    promise_shown,
)
from .model import Promise, Promised
from .stated import is_unspecified, meant_by, stated_by, value_stated
from .traits import CARRIAGE, COLOUR, FAMILIES, LIGHT, SOUND, TRAITS, Trait, trait_by_name
from .words import promise_words

__all__ = [
    "CARRIAGE",
    "COLOUR",
    "FAMILIES",
    "LIGHT",
    "SHARPENED",
    "SHOWN_FLAT",
    "SHOWN_TWICE",
    "SOUND",
    "TRAITS",
    "TWO_EYES",
    "Promise",
    "Promised",
    "Trait",
    "freeze",
    "is_unspecified",
    "meant_by",
    "promise_beside",
    "promise_digest",
    "promise_from_json",
    "promise_from_layers",
    "promise_from_master",
    "promise_shown",
    "promise_to_json",
    "promise_words",
    "read_promise_file",
    "stated_by",
    "trait_by_name",
    "value_stated",
]
