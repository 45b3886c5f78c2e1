"""A new token."""

from django import forms

from .models import SCOPES
from .tokens import LONGEST_DAYS

WORDS = {
    "read": "read: titles, verdicts, reports",
    "deliver": "deliver: that, and bring in exports",
    "whole": "everything that I may",
}


class TokenForm(forms.Form):
    """What a token is for, what it may do, and how long it lives."""

    name = forms.CharField(max_length=80, label="What it is for")
    scope = forms.ChoiceField(choices=[(one, WORDS[one]) for one in SCOPES], label="It may")
    days = forms.IntegerField(min_value=1, max_value=LONGEST_DAYS, initial=90, label="Days")
