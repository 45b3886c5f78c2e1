"""A folder to watch."""

from typing import Any

from django import forms

from ...core.errors import UsageError
from ..library import roots
from .models import Watch


class WatchForm(forms.ModelForm):  # type: ignore[type-arg]  # generic in the stubs only
    """Where to look, for what, and when a file is whole."""

    root = forms.ChoiceField(label="Media root")

    class Meta:
        model = Watch
        fields = ["root", "folder", "pattern", "delivery_name", "settle_s", "marker"]
        labels = {
            "folder": "Folder",
            "pattern": "File names",
            "delivery_name": "Delivery",
            "settle_s": "Still for",
            "marker": "Marker file",
        }

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        names = [(name, name) for name in roots.roots() if name != "uploads"]
        self.fields["root"].choices = names  # type: ignore[attr-defined]  # of a choice

    def clean(self) -> dict[str, Any]:
        """Refuse what is no folder of a media root."""
        data = super().clean() or {}
        if "root" in data and "folder" in data:
            try:
                if not roots.resolve(data["root"], data["folder"]).is_dir():
                    self.add_error("folder", "That is not a folder.")
            except UsageError as error:
                self.add_error("folder", error.text)
        return data
