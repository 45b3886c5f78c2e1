"""Forms of recipes."""

from typing import Any

from django import forms

from ...core.cured.versions.recipe import MAX_FILE_BYTES
from ..library.uploads import text_of


class ImportForm(forms.Form):
    """A recipe as a file."""

    file = forms.FileField(label="A recipe file (JSON)")

    def clean_file(self) -> str:
        """Return the file's text."""
        file: Any = self.cleaned_data["file"]
        if file.size > MAX_FILE_BYTES:
            raise forms.ValidationError("A recipe is at most 1 MiB.")
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
