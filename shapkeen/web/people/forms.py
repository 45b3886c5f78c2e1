"""What people fill in about themselves."""

from django.contrib.auth import get_user_model
from django.contrib.auth.forms import BaseUserCreationForm


class FirstAccountForm(BaseUserCreationForm):  # type: ignore[type-arg]  # generic in the stubs only
    """The account that an installation begins with."""

    class Meta:
        model = get_user_model()
        fields = ("username",)
        labels = {"username": "Name"}
