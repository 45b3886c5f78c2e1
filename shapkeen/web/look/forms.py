"""Where the probe stands."""

from typing import TYPE_CHECKING

from django import forms

if TYPE_CHECKING:
    from ...core.rehearsed.probe import Area


class ProbeForm(forms.Form):
    """A place, or an area, as fractions of the picture's width and height."""

    x = forms.FloatField(min_value=0, max_value=1)
    y = forms.FloatField(min_value=0, max_value=1)
    w = forms.FloatField(min_value=0, max_value=1, required=False)
    h = forms.FloatField(min_value=0, max_value=1, required=False)

    def area(self) -> "Area":
        """Return the place that was asked for."""
        from ...core.rehearsed.probe import Area

        found = self.cleaned_data
        return Area(found["x"], found["y"], found["w"] or 0.0, found["h"] or 0.0)
