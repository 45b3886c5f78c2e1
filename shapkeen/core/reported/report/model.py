"""The nouns of a report."""

from dataclasses import dataclass, field
from datetime import datetime

from ..slip import WitnessLine


@dataclass(frozen=True, slots=True)
class Digests:
    """SHA-256 of both files and of the promise, in hexadecimal; empty where not taken."""

    master: str = ""
    export: str = ""
    promise: str = ""


@dataclass(frozen=True, slots=True)
class Stamp:
    """The decision that counts. moved: why the attempt is no longer what was decided on."""

    decision: str
    by: str
    at: datetime
    remark: str = ""
    moved: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class WaivedFinding:
    """A finding that somebody let pass."""

    trait: str
    verdict: str
    reason: str
    by: str
    at: datetime


@dataclass(frozen=True, slots=True)
class HistoryLine:
    """One thing that was done."""

    at: datetime
    by: str
    act: str
    words: str


@dataclass(frozen=True, slots=True)
class RemarkLine:
    """A remark at a frame; place: in per cent of width and height, None = the whole picture."""

    number: int
    timecode: str
    frame: int
    place: tuple[float, float] | None
    text: str
    by: str
    at: datetime
    answers: tuple[str, ...] = ()
    closed_by: str = ""


@dataclass(frozen=True, slots=True)
class Facts:
    """What a library knows beside the files; from the command line only names of files."""

    title: str
    delivery: str
    attempt: int | None = None
    digests: Digests = field(default_factory=Digests)
    stamp: Stamp | None = None
    waived: tuple[WaivedFinding, ...] = ()
    remarks: tuple[RemarkLine, ...] = ()
    history: tuple[HistoryLine, ...] = ()
    made_at: datetime | None = None
    by: str = ""


@dataclass(frozen=True, slots=True)
class PicturePair:
    """Master and export of one moment as PNG, on one simulated display, with words for it."""

    master_png: bytes
    export_png: bytes
    master_frame: int
    export_frame: int
    display: str


@dataclass(frozen=True, slots=True)
class Figure:
    """One figure that decided: what it is, its value, unit, limit, and whence the limit comes."""

    name: str
    value: str
    unit: str
    limit: str
    source: str


@dataclass(frozen=True, slots=True)
class CauseLines:
    """A cause: the worst that it did, its reason and its cure. rate: right so often, or None."""

    id: str
    title: str
    worst: str
    why: str
    cure: str
    rate: float | None


@dataclass(frozen=True, slots=True)
class TraitLines:
    """One trait: verdict and thread; for findings what each witness says, and the drawing."""

    name: str
    title: str
    family: str
    verdict: str
    why: str
    thread: str
    meaning: str
    promised: str
    lines: tuple[WitnessLine, ...] = ()
    drawing: str = ""
    caption: str = ""
    figure: Figure | None = None
    cause: str = ""
    waiver: WaivedFinding | None = None

    @property
    def is_finding(self) -> bool:
        """Return whether it did not come through."""
        return self.verdict != "kept"


@dataclass(frozen=True, slots=True)
class FileLines:
    """One file: its role, name, bytes and digest, and what it is in a line."""

    role: str
    name: str
    size_bytes: int
    sha256: str
    words: str


@dataclass(frozen=True, slots=True)
class Report:
    """All of it. unmeasured: what was not measured or could not be told, with why."""

    facts: Facts
    overall: str
    sentence: str
    stage: str
    tally: tuple[tuple[str, int], ...]
    files: tuple[FileLines, ...]
    causes: tuple[CauseLines, ...]
    families: tuple[tuple[str, tuple[TraitLines, ...]], ...]
    heads: str
    unmeasured: tuple[tuple[str, str], ...]
    notes: tuple[str, ...]
    coverage: str
    survival: dict[str, object]
    pair: PicturePair | None = None

    @property
    def traits(self) -> tuple[TraitLines, ...]:
        """Return every trait, by family."""
        return tuple(row for _, rows in self.families for row in rows)

    @property
    def findings(self) -> tuple[TraitLines, ...]:
        """Return what did not come through, the worst first."""
        order = ("lost", "bent", "unproven")
        found = [row for row in self.traits if row.is_finding]
        return tuple(sorted(found, key=lambda row: order.index(row.verdict)))
