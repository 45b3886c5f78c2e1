"""Forms of rehearsals: what is sent where, what is looked at, what else is tried."""

from typing import Any

from django import forms

from ...core.errors import UsageError
from ...core.rehearsed.stand_in import stand_in_from_json
from ...core.rehearsed.stand_in.text import MAX_FILE_BYTES
from ...core.rehearsed.viewers import SCREENS
from ...core.rehearsed.viewers.screens import LEAST_PEAK, MOST_PEAK
from ...core.rehearsed.what_if import Question
from ...core.rehearsed.what_if.variants import CODECS
from ..library.uploads import text_of

SIZES = (("own", "as it is"), ("double", "enlarged twice"), ("half", "halved"))
SHARP = (("no", "as it is"), ("yes", "sharpened first"))
CODEC_WORDS = {"h264": "H.264", "h265": "H.265", "av1": "AV1"}
MOST_RATES = 3


class AskForm(forms.Form):
    """One service to be rehearsed with."""

    service = forms.SlugField(max_length=60)
    whole = forms.BooleanField(required=False)


class LookForm(forms.Form):
    """What is looked at on which screen."""

    rendition = forms.IntegerField(min_value=0, max_value=99, required=False)
    screen = forms.ChoiceField(choices=[(s.key, s.name) for s in SCREENS], required=False)
    peak = forms.IntegerField(min_value=LEAST_PEAK, max_value=MOST_PEAK, required=False)
    frame = forms.IntegerField(min_value=0, max_value=10**8, required=False)
    yaw = forms.FloatField(min_value=-360, max_value=360, required=False)
    pitch = forms.FloatField(min_value=-90, max_value=90, required=False)


class TimeForm(forms.Form):
    """A moment in simulated time, one in the film, and the HDR screen's peak."""

    at = forms.IntegerField(min_value=0, max_value=10**7, required=False)
    wheel = forms.IntegerField(min_value=0, max_value=10**4, required=False)
    moment = forms.CharField(max_length=20, required=False)
    peak = forms.IntegerField(min_value=LEAST_PEAK, max_value=MOST_PEAK, required=False)


class StandInForm(forms.Form):
    """A stand-in as a file."""

    file = forms.FileField(label="A stand-in file (JSON)")

    def clean_file(self) -> str:
        """Return the file's text, once it is known to be a stand-in."""
        file: Any = self.cleaned_data["file"]
        if file.size > MAX_FILE_BYTES:
            raise forms.ValidationError("A stand-in is at most 4 MiB.")
        try:
            text = text_of(file)
            stand_in_from_json(text)
        except UnicodeDecodeError as error:
            raise forms.ValidationError("This file is no text.") from error
        except UsageError as error:
            raise forms.ValidationError(f"{error.where}: {error.text}") from error
        return text


class QuestionForm(forms.Form):
    """Ways of sending that are tried with each other."""

    sizes = forms.MultipleChoiceField(
        choices=SIZES, widget=forms.CheckboxSelectMultiple, label="Size"
    )
    rates = forms.CharField(label="Bit rates", max_length=60)
    sharpened = forms.MultipleChoiceField(
        choices=SHARP, widget=forms.CheckboxSelectMultiple, label="Sharpness"
    )
    codecs = forms.MultipleChoiceField(
        choices=[(one, CODEC_WORDS[one]) for one in CODECS],
        widget=forms.CheckboxSelectMultiple,
        label="Codec",
    )
    line = forms.FloatField(min_value=0.01, max_value=10_000, label="Upload line")
    screen = forms.ChoiceField(choices=[(s.key, s.name) for s in SCREENS], label="Seen on")

    def clean_rates(self) -> tuple[int, ...]:
        """Return bits a second, of figures in Mb/s."""
        words = self.cleaned_data["rates"].replace(",", " ").split()
        try:
            rates = sorted({round(float(word) * 1e6) for word in words})
        except (ValueError, OverflowError) as error:
            raise forms.ValidationError("Give figures in Mb/s, such as 4 12 40.") from error
        if not 1 <= len(rates) <= MOST_RATES:
            raise forms.ValidationError(f"Give 1 to {MOST_RATES} bit rates.")
        return tuple(rates)

    def question(self) -> Question:
        """Return what is asked."""
        found = self.cleaned_data
        return Question(
            scales=tuple(found["sizes"]),
            bit_rates=found["rates"],
            sharpened=tuple(one == "yes" for one in found["sharpened"]),
            codecs=tuple(found["codecs"]),
            line_bits=round(found["line"] * 1e6),
            screen=found["screen"],
        )
