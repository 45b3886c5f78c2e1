"""Which titles go into an archive, and what of them."""

from typing import Any

from django import forms

from ..library.models import Title

NAME = r"^[A-Za-z0-9][A-Za-z0-9._-]{0,79}$"


class ChoiceForm(forms.Form):
    """Titles, and what is left out of them."""

    titles = forms.ModelMultipleChoiceField(
        queryset=Title.objects.none(), widget=forms.CheckboxSelectMultiple, label="Titles"
    )
    masters = forms.BooleanField(required=False, initial=True, label="masters")
    unsigned = forms.BooleanField(required=False, label="attempts that nobody signed")
    reports = forms.BooleanField(required=False, initial=True, label="reports")
    tables = forms.BooleanField(required=False, initial=True, label="look-up tables")

    def __init__(self, user: Any, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        titles: Any = self.fields["titles"]
        titles.queryset = Title.objects.visible_to(user)

    def choices(self) -> dict[str, Any]:
        """Return what was chosen, as an archive keeps it."""
        data = self.cleaned_data
        parts = {name: data[name] for name in ("masters", "unsigned", "reports", "tables")}
        return {"titles": [title.pk for title in data["titles"]], **parts}


class ArchiveForm(ChoiceForm):
    """The same, with the archive's name."""

    name = forms.RegexField(
        NAME,
        label="Name of the folder",
        error_messages={"invalid": "Letters, figures, dots and hyphens; at most 80."},
    )
