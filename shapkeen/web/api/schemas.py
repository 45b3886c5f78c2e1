"""What the API takes and gives, as OpenAPI describes it."""

from datetime import datetime
from typing import Annotated, Any

from ninja import Field, Schema

Name = Annotated[str, Field(min_length=1, max_length=120, pattern=r"^[^\x00-\x1f]+$")]
Path = Annotated[str, Field(min_length=1, max_length=1000, pattern=r"^[^\x00-\x1f]+$")]


class Problem(Schema):
    """A refusal (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str
    code: str | None = None
    where: str | None = None


class FileOut(Schema):
    """A file that was brought in. declared: as `shapkeen read --json` prints it, in short."""

    name: str
    root: str
    path: str
    size_bytes: int
    added_at: datetime


class JudgedOut(Schema):
    """A judgement in short."""

    overall: str
    stage: str
    broken: list[str]
    made_at: datetime
    out_of_date: list[str]


class JobOut(Schema):
    """One piece of long work. done, total: in its own unit."""

    id: int
    kind: str
    state: str
    done: int
    total: int
    seconds_left: float | None
    error: dict[str, Any] | None


class AttemptOut(Schema):
    """One export for a delivery."""

    id: int
    title_id: int
    delivery_id: int
    delivery: str
    number: int
    file: FileOut
    judged: JudgedOut | None
    job: JobOut | None


class DeliveryOut(Schema):
    """One receiver of a title."""

    id: int
    title_id: int
    name: str
    promise_digest: str


class TitleOut(Schema):
    """A production being finished."""

    id: int
    name: str
    note: str
    master: FileOut
    created_at: datetime


class TitlesOut(Schema):
    """A page of titles; count: of all."""

    count: int
    items: list[TitleOut]


class DeliveriesOut(Schema):
    """A page of deliveries; count: of all."""

    count: int
    items: list[DeliveryOut]


class AttemptsOut(Schema):
    """A page of attempts; count: of all."""

    count: int
    items: list[AttemptOut]


class TitleIn(Schema):
    """A new title: its master lies on a media root, or was uploaded."""

    name: Name
    note: Annotated[str, Field(max_length=200, pattern=r"^[^\x00-\x1f]*$")] = ""
    root: Name | None = None
    path: Path | None = None
    upload_id: int | None = None


class ExportIn(Schema):
    """A new attempt of a delivery, which is made where there is none of that name."""

    delivery: Annotated[str, Field(min_length=1, max_length=80, pattern=r"^[^\x00-\x1f]+$")]
    root: Name | None = None
    path: Path | None = None
    upload_id: int | None = None


class PromiseIn(Schema):
    """A promise file, `shapkeen.promise/1`; null asks for nothing."""

    promise: dict[str, Any] | None


class PromiseOut(Schema):
    """What is asked for by itself, and the digest of all that is then in force."""

    promise: dict[str, Any] | None
    digest: str | None


class UploadIn(Schema):
    """A file that is about to be sent in parts."""

    name: Annotated[str, Field(min_length=1, max_length=200, pattern=r"^[^\x00-\x1f/]+$")]
    size_bytes: Annotated[int, Field(gt=0, le=1 << 50)]


class UploadOut(Schema):
    """How much of it is here: the next part begins at `received`."""

    id: int
    name: str
    size_bytes: int
    received: int


class ReportIn(Schema):
    """The form of a report, and its paper."""

    form: Annotated[str, Field(pattern="^(html|pdf|json|csv)$")]
    paper: Annotated[str, Field(pattern="^(A4|Letter)$")] = "A4"


class ReportOut(Schema):
    """A report: once its size is above 0, its file can be taken."""

    id: int
    form: str
    size_bytes: int
    sha256: str
    job: JobOut | None


class SpecificationsOut(Schema):
    """What receivers ask for, each as `shapkeen.specification/1`."""

    count: int
    items: list[dict[str, Any]]


Choice = Annotated[str, Field(max_length=120)]


class PlanIn(Schema):
    """A specification's key, and the choices by name, as a plan that is given back has them.

    shots: first and last moment, and where the cut lies across and down in percent.
    """

    specification: Name
    fields: dict[Choice, Choice] = {}
    shots: Annotated[
        list[Annotated[list[Choice], Field(min_length=4, max_length=4)]], Field(max_length=500)
    ] = []


class PlanOut(Schema):
    """A kept plan: what it is by, its choices, and the settings sheet."""

    delivery_id: int
    specification: str
    fields: dict[str, Any]
    sheet: dict[str, Any]


class RecipeIn(Schema):
    """A recipe, `shapkeen.recipe/1`."""

    recipe: dict[str, Any]


class RecipeOut(Schema):
    """One version of a recipe."""

    id: int
    title_id: int
    name: str
    version: int
    recipe: dict[str, Any]


class RecipesOut(Schema):
    """A page of recipes; count: of all."""

    count: int
    items: list[RecipeOut]


class VersionOut(Schema):
    """A version that was asked for; attempt_id: what it became, null until it is made."""

    id: int
    recipe_id: int
    clip: str
    file_name: str
    attempt_id: int | None
    notes: list[str]
    job: JobOut | None


class VersionsOut(Schema):
    """A page of versions; count: of all."""

    count: int
    items: list[VersionOut]


class TraitOut(Schema):
    """A trait with what is said of it."""

    trait: str
    value: Any


class CureOut(Schema):
    """What a corrected copy would put right. overall: what it would be judged as.

    causes: in words, those that it cures. says: what it would state. stays: what it does not put
    right, and why. All empty where nothing is cured by a copy.
    """

    possible: bool
    overall: str | None
    causes: list[str]
    says: list[TraitOut]
    stays: list[TraitOut]


class CopyIn(Schema):
    """Nothing to choose: the copy says what was promised."""


class RehearsalIn(Schema):
    """The key of a stand-in; whole: all of the film in place of excerpts."""

    stand_in: Name
    whole: bool = False


class RehearsalOut(Schema):
    """A rehearsal; found: `shapkeen.rehearsal/1`, empty until it is made."""

    id: int
    attempt_id: int
    stand_in: str
    whole: bool
    out_of_date: list[str]
    found: dict[str, Any]
    job: JobOut | None


class RehearsalsOut(Schema):
    """A page of rehearsals; count: of all."""

    count: int
    items: list[RehearsalOut]
