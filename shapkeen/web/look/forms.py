"""Where the probe stands."""

from typing import TYPE_CHECKING

from django import forms

if TYPE_CHECKING:
    from ...core.geometry.parallax import Screen
    from ...core.rehearsed.probe import Area


class ScreenForm(forms.Form):
    """The screen that parallax is told for."""

    width = forms.FloatField(min_value=0.05, max_value=60, label="Screen", initial=1.22)
    distance = forms.FloatField(min_value=0.1, max_value=100, label="Seen from", initial=2.5)

    def screen(self) -> "Screen":
        """Return the screen that was chosen; sizes were given in metres."""
        from ...core.geometry.parallax import Screen

        found = self.cleaned_data
        return Screen(found["width"] * 1000, found["distance"] * 1000)


class ConvergenceForm(forms.Form):
    """By how much the right eye is shifted, in % of the width."""

    shift = forms.FloatField(min_value=-10, max_value=10)


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
