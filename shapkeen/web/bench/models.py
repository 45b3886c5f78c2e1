"""Surveys, kept once and large, and judgements, small and made again whenever a promise moves."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models

from ...core.compared import FileState
from ...core.declared import Declaration
from ...core.judged import Comparison
from ...core.judged.form import (
    JUDGEMENT_FORM,
    KeptJudgement,
    declaration_from_bytes,
    judgement_from_bytes,
    judgement_to_bytes,
)
from ...core.measured import FIRST_LOOK, SURVEY_FORM, WHOLE, AloneFindings, PairSurvey
from ...core.measured.model import LikenessSeries
from ...core.measured.survey.form import (
    looks_from_bytes,
    series_from_bytes,
    survey_from_bytes,
    with_drawn,
)
from ...core.reported.bench import broken_words, tally
from ..library.models import Attempt, Reel, Title


class SurveyQuerySet(models.QuerySet["Survey"]):
    def of_present_files(self, attempt: Attempt) -> SurveyQuerySet:
        """Return surveys of both files as they were read last, in the present form."""
        master, export = attempt.delivery.title.master, attempt.reel
        return self.filter(
            form=SURVEY_FORM,
            frames=settings.CONF.survey_frames,
            master=master,
            master_size=master.size_bytes,
            master_changed_ns=master.changed_ns,
            export=export,
            export_size=export.size_bytes,
            export_changed_ns=export.changed_ns,
        )

    def first_looks(self, attempt: Attempt) -> SurveyQuerySet:
        """Return first looks at both files of an attempt that no judgement rests on."""
        pair = {"master": attempt.delivery.title.master, "export": attempt.reel}
        return self.filter(stage=FIRST_LOOK, judgements=None, **pair)


class Survey(models.Model):
    """All that was measured of one state of a master and one of an export, read in one way.

    key: of core.compared.survey_key. stage: as in the contract. frames: pairs compared closely.
    findings: compressed, without the series, which is in SurveySeries. looks: what master and
    export show by themselves; empty for a first look.
    """

    key = models.CharField(max_length=64, unique=True)
    form = models.PositiveIntegerField()
    frames = models.PositiveIntegerField()
    master = models.ForeignKey(Reel, on_delete=models.CASCADE, related_name="surveys_as_master")
    master_path = models.TextField()
    master_size = models.BigIntegerField()
    master_changed_ns = models.BigIntegerField()
    master_declaration = models.BinaryField()
    export = models.ForeignKey(Reel, on_delete=models.CASCADE, related_name="surveys_as_export")
    export_path = models.TextField()
    export_size = models.BigIntegerField()
    export_changed_ns = models.BigIntegerField()
    export_declaration = models.BinaryField()
    findings = models.BinaryField()
    looks = models.BinaryField(default=b"")
    read_s = models.FloatField()
    stage = models.CharField(max_length=12, default=WHOLE)
    made_at = models.DateTimeField(auto_now=True)

    objects = SurveyQuerySet.as_manager()

    def __str__(self) -> str:
        return f"survey {self.key[:12]}"

    def states(self) -> tuple[FileState, FileState]:
        """Return the states of master and export that it is of."""
        return (
            FileState(self.master_path, self.master_size, self.master_changed_ns),
            FileState(self.export_path, self.export_size, self.export_changed_ns),
        )

    def declarations(self) -> tuple[Declaration, Declaration]:
        """Return what master and export declared."""
        kept = self.master_declaration, self.export_declaration
        return declaration_from_bytes(bytes(kept[0])), declaration_from_bytes(bytes(kept[1]))

    def survey(self) -> PairSurvey:
        """Return what was measured; raises ValueError for another form."""
        return survey_from_bytes(bytes(self.findings))

    def look(self, side: int) -> AloneFindings | None:
        """Return what master (0) or export (1) shows by itself; None where it was not looked at.

        Raises ValueError for another form.
        """
        return looks_from_bytes(bytes(self.looks))[side] if self.looks else None


class SurveySeries(models.Model):
    """The likeness of every frame. drawn: thinned for drawing; rows: each of them."""

    survey = models.OneToOneField(Survey, on_delete=models.CASCADE, related_name="series")
    drawn = models.BinaryField()
    rows = models.BinaryField()

    def __str__(self) -> str:
        return f"series of {self.survey}"

    def added_to(self, survey: PairSurvey) -> PairSurvey:
        """Return a survey with its series, thinned for drawing."""
        return with_drawn(survey, bytes(self.drawn))

    def frames(self) -> LikenessSeries:
        """Return every row."""
        return series_from_bytes(bytes(self.rows))


class Judgement(models.Model):
    """A survey held against a promise. It knows which promise, and which states of both files.

    broken: what broke, in words for lists. stage: as in the contract. findings: compressed.
    """

    attempt = models.OneToOneField(Attempt, on_delete=models.CASCADE, related_name="judgement")
    survey = models.ForeignKey(Survey, on_delete=models.PROTECT, related_name="judgements")
    form = models.PositiveIntegerField()
    promise_digest = models.CharField(max_length=64)
    promise_at = models.DateTimeField()
    promise_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )
    master_size = models.BigIntegerField()
    master_changed_ns = models.BigIntegerField()
    export_size = models.BigIntegerField()
    export_changed_ns = models.BigIntegerField()
    made_at = models.DateTimeField(auto_now=True)
    stage = models.CharField(max_length=12)
    overall = models.CharField(max_length=10)
    tally = models.JSONField(default=list)
    broken = models.JSONField(default=list)
    findings = models.BinaryField()

    def __str__(self) -> str:
        return f"{self.attempt}: {self.overall}"

    @classmethod
    def record(
        cls, attempt: Attempt, survey: Survey, comparison: Comparison, stage: str
    ) -> Judgement:
        """Save a judgement in place of the attempt's earlier one, and return it."""
        delivery, survival = attempt.delivery, comparison.survival
        values: dict[str, Any] = {
            "survey": survey,
            "form": JUDGEMENT_FORM,
            "promise_digest": delivery.promise_digest,
            "promise_at": delivery.promise_at,
            "promise_by": delivery.promise_by,
            "master_size": survey.master_size,
            "master_changed_ns": survey.master_changed_ns,
            "export_size": survey.export_size,
            "export_changed_ns": survey.export_changed_ns,
            "stage": stage,
            "overall": survival.overall,
            "tally": tally(survival.verdicts),
            "broken": broken_words(survival),
            "findings": judgement_to_bytes(comparison.promise, survival),
        }
        made, _ = cls.objects.update_or_create(attempt=attempt, defaults=values)
        return made

    def reasons_out_of_date(self, attempt: Attempt) -> list[str]:
        """Return why it is no longer that of the present promise and files; empty while it is."""
        delivery = attempt.delivery
        reasons = []
        if self.promise_digest != delivery.promise_digest:
            reasons.append("the promise has changed")
        if (self.master_size, self.master_changed_ns) != delivery.title.master.state:
            reasons.append("the master has been replaced")
        if (self.export_size, self.export_changed_ns) != attempt.reel.state:
            reasons.append("the export has been replaced")
        if self.form != JUDGEMENT_FORM:
            reasons.append("it was judged by older rules")
        return reasons

    def kept(self) -> KeptJudgement:
        """Return promise and verdicts; raises ValueError for another form."""
        return judgement_from_bytes(bytes(self.findings))

    def comparison(self) -> Comparison:
        """Return all that pages show of it; raises ValueError for another form."""
        master, export = self.survey.declarations()
        kept, survey = self.kept(), self.survey.survey()
        return Comparison(
            master=master,
            export=export,
            promise=kept.promise,
            survey=survey,
            survival=kept.survival,
            read_s=self.survey.read_s,
            measure_s=survey.seconds,
        )


class CorrectedCopy(models.Model):
    """A corrected copy of a file that someone asked for, and the file that it became.

    An export's copy becomes the next attempt, a master's becomes the title's master. wishes: trait
    → value that it was to say. changes, left: as in `shapkeen.cure/1`, once it is written. It is
    never changed after that.
    """

    reel = models.ForeignKey(Reel, on_delete=models.CASCADE, related_name="copies")
    result = models.OneToOneField(
        Reel, null=True, on_delete=models.CASCADE, related_name="copied_from"
    )
    title = models.ForeignKey(Title, on_delete=models.CASCADE, related_name="+")
    wishes = models.JSONField()
    changes = models.JSONField(default=list)
    left = models.JSONField(default=list)
    asked_at = models.DateTimeField(auto_now_add=True)
    asked_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    def __str__(self) -> str:
        return f"corrected copy of {self.reel}"

    @property
    def attempt(self) -> Attempt | None:
        """Return the attempt that it is a copy of; None for a master's."""
        return getattr(self.reel, "attempt", None)

    @property
    def made(self) -> Attempt | None:
        """Return the attempt that it became."""
        return getattr(self.result, "attempt", None) if self.result else None


class TakenTable(models.Model):
    """A look-up table that someone took from an attempt, to take its drift back.

    use: source or export. kind: 1d or 3d. undoes: causes. before, after: mean difference, in unit.
    """

    attempt = models.ForeignKey(Attempt, on_delete=models.CASCADE, related_name="tables")
    use = models.CharField(max_length=10)
    kind = models.CharField(max_length=4)
    size = models.PositiveIntegerField()
    undoes = models.JSONField(default=list)
    before = models.FloatField()
    after = models.FloatField()
    unit = models.CharField(max_length=20)
    taken_at = models.DateTimeField(auto_now_add=True)
    taken_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+"
    )

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.kind} table from {self.attempt}"
