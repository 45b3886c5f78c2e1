"""Forms of recipes."""

from typing import Any

from django import forms

from ...core.colour.tone_maps import TONE_MAPS
from ...core.cured.versions.encoders import ENCODERS, SPEEDS, USUAL_SPEED
from ...core.cured.versions.recipe_text import MAX_FILE_BYTES, MOST_TABLE_BYTES
from ...core.geometry.codec_profiles import CODEC_NAMES
from ..library.uploads import text_of
from .words import WRAPPERS


class ImportForm(forms.Form):
    """A recipe as a file."""

    file = forms.FileField(label="A recipe file (JSON)")

    def clean_file(self) -> str:
        """Return the file's text."""
        file: Any = self.cleaned_data["file"]
        if file.size > MAX_FILE_BYTES:
            raise forms.ValidationError("A recipe is at most 2 MiB.")
        try:
            return text_of(file)
        except UnicodeDecodeError as error:
            raise forms.ValidationError("This file is no text.") from error


class RecipeForm(forms.Form):
    """A recipe as text, to be kept as its next version."""

    text = forms.CharField(
        label="Recipe",
        strip=False,
        widget=forms.Textarea(attrs={"rows": 26, "spellcheck": "false"}),
    )


def _codings() -> list[tuple[str, str]]:
    return [
        (f"{one.codec}/{profile}", f"{CODEC_NAMES.get(one.codec, one.codec.upper())} {profile}")
        for one in ENCODERS
        for profile in one.profiles
    ]


AS_MASTERED = ("", "as the master's")
LIGHTS = [
    AS_MASTERED,
    ("sdr", "SDR, BT.709"),
    ("pq", "PQ, BT.2020"),
    ("hlg", "HLG, BT.2020"),
]
STEREO = [
    AS_MASTERED,
    ("left-right", "side by side"),
    ("top-bottom", "top and bottom"),
    ("mono", "one eye"),
]
SOUNDS = [
    ("copy", "copied"),
    ("aac", "AAC"),
    ("opus", "Opus"),
    ("pcm", "PCM, 24 bits"),
    ("none", "none"),
]
CHANNELS = [("", "as in the master"), ("2", "mixed down to two"), ("1", "mixed down to one")]


class NewRecipeForm(forms.Form):
    """A recipe filled in field by field; what is left empty is as usual, or as the master's."""

    name = forms.CharField(max_length=80, label="Name", help_text="of delivery and file")
    coding = forms.ChoiceField(choices=_codings, initial="h264/High", label="Codec and profile")
    preset = forms.ChoiceField(
        choices=[(one, one) for one in SPEEDS],
        initial=USUAL_SPEED,
        label="Speed",
        help_text="slower: smaller at the same quality",
    )
    quality = forms.CharField(
        required=False,
        max_length=8,
        label="Constant quality",
        help_text="the encoder's number, smaller is better; empty: as usual",
    )
    bit_rate = forms.CharField(
        required=False, max_length=12, label="Bit rate, Mb/s", help_text="in place of a quality"
    )
    passes = forms.BooleanField(required=False, label="Two passes, for a bit rate")
    wrapper = forms.ChoiceField(choices=list(WRAPPERS.items()), label="Wrapper")
    size = forms.CharField(
        required=False,
        max_length=16,
        label="Size",
        help_text="width × height of square samples; another shape is cut from the middle",
    )
    light = forms.ChoiceField(choices=LIGHTS, required=False, label="Light and colours")
    tone_map = forms.ChoiceField(
        choices=[(one, one) for one in TONE_MAPS],
        required=False,
        label="Tone map",
        help_text="where HDR becomes SDR",
    )
    table = forms.FileField(
        required=False,
        max_length=80,
        label="Look-up table, .cube",
        help_text="put in on purpose, in place of any conversion of light",
    )
    stereo = forms.ChoiceField(choices=STEREO, required=False, label="Two eyes")
    first = forms.CharField(
        required=False, max_length=16, label="Mark in", help_text="frame, or h:mm:ss:ff"
    )
    last = forms.CharField(
        required=False, max_length=16, label="Mark out", help_text="the last frame that is shown"
    )
    clips = forms.CharField(
        required=False,
        max_length=2000,
        label="Clips",
        help_text="several parts in one go, each a file: opening 0 to 47, bell 72 to 119",
    )
    timecode = forms.BooleanField(required=False, label="Timecode burnt in")
    burnt_text = forms.CharField(
        required=False, max_length=60, label="Text burnt in", help_text="for a review copy"
    )
    sound = forms.ChoiceField(choices=SOUNDS, label="Sound")
    loudness = forms.CharField(
        required=False,
        max_length=8,
        label="Loudness, LUFS",
        help_text="where sound is coded; empty: as it is",
    )
    channels = forms.ChoiceField(choices=CHANNELS, required=False, label="Channels")
    file = forms.CharField(
        required=False,
        max_length=120,
        label="File name",
        help_text="of {name} {width} {height} {light} {codec} {rate}; empty: {name}",
    )

    def values(self) -> dict[str, str]:
        """Return what was filled in, as text by field."""
        said = {name: str(value) for name, value in self.cleaned_data.items()}
        ticks = {
            name: "yes" if self.cleaned_data[name] else ""
            for name, field in self.fields.items()
            if isinstance(field, forms.BooleanField)
        }
        return said | ticks | self._table_name()

    def clean_table(self) -> str:
        """Return the text of a table's file; empty where none was sent."""
        file: Any = self.cleaned_data["table"]
        if file is None:
            return ""
        if file.size > MOST_TABLE_BYTES:
            raise forms.ValidationError("A table is at most 16 MiB.")
        try:
            return text_of(file)
        except UnicodeDecodeError as error:
            raise forms.ValidationError("This file is no text.") from error

    def _table_name(self) -> dict[str, str]:
        sent: Any = self.files.get("table")
        return {"table_name": sent.name} if sent is not None else {}
