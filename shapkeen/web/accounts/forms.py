"""What administrators and people fill in about accounts."""

from django import forms
from django.contrib.auth import get_user_model
from django.contrib.auth.forms import BaseUserCreationForm

from ..library.models import Title
from ..people.roles import ROLES

CHOICES = [(role, role) for role in ROLES]


class AccountForm(BaseUserCreationForm):  # type: ignore[type-arg]  # generic in the stubs only
    """A new account with its role for all titles, or for one."""

    role = forms.ChoiceField(choices=CHOICES, initial="editor", label="Role")
    title = forms.ModelChoiceField(
        queryset=Title.objects.filter(binned_at=None),
        required=False,
        label="Of",
        empty_label="all titles",
    )

    class Meta:
        model = get_user_model()
        fields = ("username",)
        labels = {"username": "Name"}


class GrantForm(forms.Form):
    """One more role."""

    role = forms.ChoiceField(choices=CHOICES)
    title = forms.ModelChoiceField(
        queryset=Title.objects.filter(binned_at=None), required=False, empty_label="all titles"
    )
