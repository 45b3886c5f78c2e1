"""In which form a report is wanted."""

from django import forms

KINDS = (
    ("html", "HTML, one file"),
    ("pdf-A4", "PDF, A4"),
    ("pdf-Letter", "PDF, Letter"),
    ("json", "JSON"),
    ("csv", "CSV"),
)


class ReportForm(forms.Form):
    """A form, and the paper of a PDF."""

    kind = forms.ChoiceField(choices=KINDS, initial="html", label="As")

    def form_and_paper(self) -> tuple[str, str]:
        """Return form and paper."""
        form, _, paper = self.cleaned_data["kind"].partition("-")
        return form, paper or "A4"
