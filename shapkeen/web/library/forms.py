"""What people fill in."""

from typing import Any

from django import forms

from ...core.errors import UsageError
from .asking import Asked, as_promised
from .models import Title


class FileChoice(forms.Form):
    """A file from a media root (chosen on the page) or an upload; one of the two."""

    root = forms.CharField(required=False, widget=forms.HiddenInput)
    path = forms.CharField(required=False, widget=forms.HiddenInput)
    upload = forms.FileField(required=False, label="or send a file", max_length=200)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not data.get("upload") and not data.get("path"):
            raise forms.ValidationError("Choose a file from a media root, or send one.")
        if data.get("upload") and data.get("path"):
            raise forms.ValidationError(
                "A file is chosen and another one was sent. Which one is it? Take one away."
            )
        return data


class TitleForm(FileChoice):
    """A new title with its master."""

    name = forms.CharField(max_length=120, label="Title")
    note = forms.CharField(max_length=200, required=False, label="Note")

    def clean_name(self) -> str:
        name: str = self.cleaned_data["name"]
        if Title.objects.filter(name=name, binned_at=None).exists():
            raise forms.ValidationError("There is a title of that name already.")
        return name


class PromiseForm(forms.Form):
    """What a title or a delivery asks for beyond the master: a promise file's text, or nothing."""

    promise_text = forms.CharField(
        required=False,
        label="Promise file",
        max_length=100_000,
        widget=forms.Textarea(attrs={"rows": 14, "spellcheck": "false"}),
    )

    def __init__(self, data: Any = None, *, asked: Asked) -> None:
        self.asked = asked
        super().__init__(data, initial={"promise_text": asked.promise_text})

    def clean_promise_text(self) -> str:
        text: str = self.cleaned_data["promise_text"].strip()
        if text:
            try:
                as_promised(self.asked, text)
            except UsageError as error:
                raise forms.ValidationError(f"{error.where}: {error.text}") from error
        return text


class ExportForm(FileChoice):
    """A new attempt of a delivery."""

    delivery = forms.CharField(max_length=80, label="Delivery")
    sent_as = forms.UUIDField(required=False, widget=forms.HiddenInput)
    """Made with the form: sent twice, it still is one export."""


class NameForm(forms.Form):
    """Another name; for a title its note too."""

    name = forms.CharField(max_length=120, label="Name")
    note = forms.CharField(max_length=200, required=False, label="Note")
