"""What people fill in about plans and specifications."""

from typing import Any

from django import forms

from ...core.errors import UsageError
from ...core.promised.specification import MAX_FILE_BYTES, Specification, specification_from_json
from ..library.uploads import text_of


class KeepForm(forms.Form):
    """The delivery that a plan is kept with."""

    delivery_name = forms.CharField(max_length=80, label="Delivery")


def _read(text: str) -> Specification:
    try:
        return specification_from_json(text)
    except UsageError as error:
        raise forms.ValidationError(f"{error.where}: {error.text}") from error


class SpecificationForm(forms.Form):
    """A specification's file as text; `after` is the version that it was edited from."""

    text = forms.CharField(
        label="Specification file",
        max_length=MAX_FILE_BYTES,
        widget=forms.Textarea(attrs={"rows": 26, "spellcheck": "false"}),
    )
    after = forms.IntegerField(min_value=0, widget=forms.HiddenInput)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("text"):
            data["specification"] = _read(data["text"])
        return data


class ImportForm(forms.Form):
    """A specification's file, sent."""

    file = forms.FileField(label="Specification file", max_length=200)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        sent = data.get("file")
        if sent is None:
            return data
        if sent.size > MAX_FILE_BYTES:
            raise forms.ValidationError("A specification is at most 256 KiB.")
        try:
            data["specification"] = _read(text_of(sent))
        except UnicodeDecodeError as error:
            raise forms.ValidationError("This is no text file (UTF-8).") from error
        return data
