"""What a silent master leaves open: asked once for a title, with the likely answer."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from ...core.judged.silence import Question, choices_of, question_of
from ...core.promised import promise_from_json, promise_words, trait_by_name
from ...core.reported.declared import declaration_from_object
from ..library.models import Title
from ..library.services import answer_for_master
from .services import file_shows


class AnswersForm(forms.Form):
    """What a silent master is, said by whoever knows: one list for each thing it leaves open."""

    def __init__(self, question: Question, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name in question.traits:
            trait = trait_by_name(name)
            self.fields[name] = forms.TypedChoiceField(
                choices=[(str(value), words) for value, words in choices_of(name).items()],
                initial=question.likely[name],
                label=trait.title if trait else name,
                coerce=str if name == "range" else int,
                widget=forms.Select(attrs={"class": "sk-select"}),
            )


def _question_about(title: Title) -> Question | None:
    declared = declaration_from_object(title.master.declaration)
    return question_of(declared, file_shows(title.master).whole)


def _said_of(title: Title) -> list[tuple[str, str]]:
    """Return what someone said of the master: names and values in words."""
    if not title.answers_text:
        return []
    promise = promise_from_json(title.answers_text, origin=title.answers_origin)
    return [
        (trait.title, promise_words(trait, promised))
        for name, promised in promise.traits.items()
        if (trait := trait_by_name(name)) is not None
    ]


@require_http_methods(["GET", "POST"])
def silence(request: HttpRequest, title_id: int) -> HttpResponse:
    """Ask what a silent master is; take the answer, or take it back."""
    visible = Title.objects.visible_to(request.user).select_related("master", "answers_by")
    title = get_object_or_404(visible, pk=title_id)
    question = _question_about(title)
    if request.method == "POST":
        return _answered(request, title, question)
    context: dict[str, Any] = {"title": title, "question": question, "said": _said_of(title)}
    if question is not None:
        context["form"] = AnswersForm(question)
    return render(request, "bench/_silence.html", context)


def _answered(request: HttpRequest, title: Title, question: Question | None) -> HttpResponse:
    form = AnswersForm(question, request.POST) if question else None
    if "again" in request.POST or form is None:
        answer_for_master(title, {}, by=request.user)
    elif form.is_valid():
        answer_for_master(title, form.cleaned_data, by=request.user)
        messages.success(request, "It was noted what the master is; deliveries are judged by it.")
    else:
        messages.error(request, "Nothing was noted: choose one of the values for each.")
    return redirect(f"{title.get_absolute_url()}#master")
