"""One trait: everything about one thing that must survive."""

from dataclasses import dataclass

from ...declared import TraitValue
from ..forms import Form

LIGHT, COLOUR, SHAPE, DETAIL = "light", "colour", "shape", "detail"
SPHERE, EYES, TIME, SOUND, CARRIAGE = "sphere", "eyes", "time", "sound", "carriage"
FAMILIES = (LIGHT, COLOUR, SHAPE, DETAIL, SPHERE, EYES, TIME, SOUND, CARRIAGE)


@dataclass(frozen=True, slots=True, kw_only=True)
class Trait:
    """One thing about the picture that must survive.

    form: how its values look. rule: how it is judged. declared: whether files can state it;
    else only the picture shows it. neutral: what silence means, where the trade agrees on it.
    flat: what players make of silence; promised only where an export says otherwise.
    unit: what its figures count, for lists with room to say so. within: a trait beside which alone
    this one is promised: where that promises a sphere, or two eyes.
    """

    name: str
    title: str
    family: str
    form: Form
    rule: str
    meaning: str
    declared: bool = True
    neutral: object = None
    flat: str = ""
    colour_tag: bool = False
    unit: str = ""
    within: str = ""

    def show(self, value: TraitValue) -> str:
        """Return a value in the trait's short form; with its unit, but for words."""
        shown = self.form.show(value)
        return shown if isinstance(value, str) else f"{shown} {self.unit}".rstrip()
