"""A new webhook."""

from typing import Any

from django import forms
from django.core.validators import URLValidator

from .models import Hook
from .services import TOLD


class HookForm(forms.Form):
    """Name, address, and what it is told."""

    name = forms.CharField(max_length=80)
    address = forms.CharField(max_length=400, validators=[URLValidator(["http", "https"])])
    acts = forms.MultipleChoiceField(choices=list(TOLD.items()), required=False)

    def clean_name(self) -> Any:
        name = self.cleaned_data["name"]
        if Hook.objects.filter(name=name).exists():
            raise forms.ValidationError(f"There is a webhook named {name}.")
        return name
