"""What people fill in to waive, to sign, to remark, and to let others look."""

from django import forms


class WaiverForm(forms.Form):
    """A finding, and why it may pass."""

    trait = forms.SlugField(max_length=40, widget=forms.HiddenInput)
    reason = forms.CharField(max_length=500, label="Reason")


class DecisionForm(forms.Form):
    """Signed or refused, with a remark."""

    decision = forms.ChoiceField(choices=[("signed", "signed"), ("refused", "refused")])
    remark = forms.CharField(
        max_length=1000,
        required=False,
        widget=forms.Textarea(attrs={"rows": 2}),
        label="Remark (needed to refuse)",
    )
    seen = forms.CharField(max_length=4000, widget=forms.HiddenInput)


class LinkForm(forms.Form):
    """Whom a review link is for, for how long, and what it lets do."""

    name = forms.CharField(max_length=80, label="For")
    days = forms.IntegerField(min_value=1, max_value=90, initial=7, label="Days")
    remarks = forms.BooleanField(required=False, initial=True, label="may remark")
    signs = forms.BooleanField(required=False, label="may sign or refuse")


class RemarkForm(forms.Form):
    """What is said of a frame. x, y: where in the picture, as fractions; empty = all of it."""

    text = forms.CharField(max_length=1000, label="Remark")
    frame = forms.IntegerField(min_value=0, max_value=100_000_000, widget=forms.HiddenInput)
    x = forms.FloatField(min_value=0, max_value=1, required=False, widget=forms.HiddenInput)
    y = forms.FloatField(min_value=0, max_value=1, required=False, widget=forms.HiddenInput)

    def place(self) -> tuple[float, float] | None:
        """Return where in the picture it stands, None for all of it."""
        x, y = self.cleaned_data.get("x"), self.cleaned_data.get("y")
        return None if x is None or y is None else (x, y)


class AnswerForm(forms.Form):
    """An answer to a remark."""

    text = forms.CharField(max_length=1000, label="Answer")
