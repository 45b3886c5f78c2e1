"""Trying variants: each is really coded, sent through the stand-in, and looked at on a screen."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import cattrs
import numpy as np

from ...declared import read_declaration
from ...geometry.framing import Area
from ...judged import plan_reading
from ...measured import Progress, Source
from ...measured.decoded.grid import Real
from ...measured.decoded.metrics import quick_likeness
from ...measured.model import coding_of
from ...promised import Promise
from ..ladder import Plan, plan_ladder
from ..ladder.coding import Settings, code, frames_of
from ..ladder.excerpts import Excerpt
from ..ladder.figures import banding, detail_left, enlarged, ten_bit
from ..ladder.making import Sent, code_renditions
from ..ladder.renditions import Received
from ..ladder.through_service import (
    HDR_DEPTH,
    REFERENCE_DEPTH,
    SDR_DEPTH,
    Passage,
    fold_of,
    known,
    turned,
)
from ..received import recognise
from ..stand_in import PictureChanges
from ..viewers import rendition_for, screen_named
from .variants import SHARPENED, Question, Variant, variants_of

FOREVER_S = 1e12
EVERY = 3
"""Every third frame is held against the original."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """A rendition held against the original at the original's size; as ladder.figures.Figures."""

    ssim: float
    detail_lines: int | None
    of_lines: int | None
    detail_kept: float | None
    banding: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Outcome:
    """What one variant came to.

    raster: as sent. sent_bits: bits a second that it came out with. upload_s: of the whole film on
    the line asked for. rendition: what the screen shows; file: where it lies within the folder.
    """

    variant: Variant
    raster: tuple[int, int]
    sent_bits: float
    upload_s: float
    rendition: str
    rendition_raster: tuple[int, int]
    file: str
    seen: Seen


_CONVERTER = cattrs.Converter()


def try_variants(
    sent: Sent,
    excerpt: Excerpt,
    question: Question,
    folder: Path,
    *,
    length_s: float,
    progress: Progress | None = None,
) -> tuple[Outcome, ...]:
    """Return what became of every variant of an excerpt; what lies in the folder is not done again.

    length_s: of the whole film. Raises UsageError for a question that cannot be asked,
    UnreadableFileError, and what `progress` raises.
    """
    variants = variants_of(question, _upright(sent))
    made = []
    for place, variant in enumerate(variants):
        if progress:
            progress(place, len(variants))
        made.append(_tried(sent, excerpt, question, variant, folder, length_s))
    if progress:
        progress(len(variants), len(variants))
    return tuple(made)


def _upright(sent: Sent) -> tuple[int, int]:
    frame = next(frames_of(sent.source, [0]))
    return turned(frame, sent.meant_turn).raster


def _tried(
    sent: Sent,
    excerpt: Excerpt,
    question: Question,
    variant: Variant,
    folder: Path,
    length_s: float,
) -> Outcome:
    kept = folder / f"{variant.key}.json"
    found = _kept(kept)
    if found is not None:
        return replace(found, upload_s=found.sent_bits * length_s / question.line_bits)
    numbers = range(excerpt.first, excerpt.end)
    file = folder / f"{variant.key}-sent.mp4"
    _send(sent, numbers, variant, file)
    plan, through = _received(sent, question, file)
    places = range(0, len(numbers), plan.step)
    own = folder / variant.key
    own.mkdir(exist_ok=True)
    rendition = code_renditions(through, [plan], places, own)[plan]
    bits = file.stat().st_size * 8 / (len(numbers) / sent.source.reading.rate)
    outcome = Outcome(
        variant=variant,
        raster=variant.raster(_upright(sent)),
        sent_bits=float(bits),
        upload_s=float(bits) * length_s / question.line_bits,
        rendition=plan.name,
        rendition_raster=plan.raster,
        file=_within(rendition, folder),
        seen=_seen(sent, numbers, rendition, places),
    )
    part_file = kept.with_suffix(".part")
    part_file.write_text(json.dumps(_CONVERTER.unstructure(outcome)))
    part_file.replace(kept)
    return outcome


def outcomes_from(kept: Sequence[object]) -> tuple[Outcome, ...]:
    """Return outcomes from what JSON kept; raises cattrs' errors for another form."""
    return tuple(_CONVERTER.structure(one, Outcome) for one in kept)


def _within(rendition: Source, folder: Path) -> str:
    """Return where a rendition lies in a folder; what was sent, where that is played."""
    return str(rendition.path.relative_to(folder))


def _kept(path: Path) -> Outcome | None:
    try:
        return _CONVERTER.structure(json.loads(path.read_text()), Outcome)
    except (OSError, ValueError, KeyError, cattrs.BaseValidationError):
        return None


def _send(sent: Sent, numbers: Sequence[int], variant: Variant, file: Path) -> None:
    """Write the excerpt as this variant has it: scaled, sharpened, coded."""
    if file.exists():
        return
    coding = known(coding_of(sent.meant))
    raster = _upright(sent)
    hdr = coding.transfer in (16, 18)
    passage = Passage(
        reading=sent.meant,
        turn=sent.meant_turn,
        part=Area(0, 0, *raster),
        raster=variant.raster(raster),
        goal=coding,
        depth=HDR_DEPTH if hdr and variant.codec != "h264" else SDR_DEPTH,
        changes=PictureChanges(sharpen=SHARPENED if variant.sharpened else 0.0),
    )
    settings = Settings(
        codec=variant.codec,
        bit_rate=variant.bit_rate,
        raster=passage.raster,
        rate=sent.source.reading.rate,
        depth=passage.depth,
        coding=coding,
    )
    code((passage.planes(frame) for frame in frames_of(sent.source, numbers)), settings, file)


def _received(sent: Sent, question: Question, file: Path) -> tuple[Plan, Sent]:
    """Return the rendition that the screen shows of what was sent, and what it is made of."""
    declared = read_declaration(file)
    recognition = recognise(declared, sent.stand_in, Promise(traits={}))
    plans = plan_ladder(declared, sent.stand_in, recognition)
    chosen = rendition_for(screen_named(question.screen), plans, FOREVER_S)
    reading = plan_reading(declared)
    received = Sent(
        source=Source(file, reading),
        declared=declared,
        stand_in=sent.stand_in,
        recognition=recognition,
        meant=reading,
        meant_turn=0,
    )
    return plans[chosen or 0], received


def _seen(sent: Sent, numbers: Sequence[int], rendition: Source, places: Sequence[int]) -> Seen:
    """Return how the rendition compares with the original, at the original's size."""
    raster = _upright(sent)
    crop = None if sent.stand_in.plays_itself else sent.stand_in.picture.crop
    part = Received(raster=raster, aspect=(1, 1)).cut(crop)
    coding = coding_of(rendition.reading)
    right = Passage(
        reading=sent.meant,
        turn=sent.meant_turn,
        part=part,
        raster=part.size,
        goal=coding,
        depth=REFERENCE_DEPTH,
        fold=fold_of(sent.stand_in),
    )
    alike: list[float] = []
    fine: list[tuple[Real, Real]] = []
    steps: list[float] = []
    originals = frames_of(sent.source, [numbers[place] for place in places])
    shown = frames_of(rendition, range(len(places)))
    for place, (frame, there) in enumerate(zip(originals, shown, strict=False)):
        if place % EVERY:
            continue
        expected = ten_bit(right.planes(frame), right.depth)
        shown_luma = ten_bit((there.luma, there.cb, there.cr), there.depth)["luma"]
        large = enlarged(shown_luma, part.size)
        alike.append(quick_likeness(expected["luma"], large)[0])
        fine.append((expected["luma"], large))
        found = banding(expected["luma"], large)
        steps += [found] if found is not None else []
    left = detail_left(fine)
    return Seen(
        ssim=float(np.mean(alike)),
        detail_lines=round(left.left * part.height) if left else None,
        of_lines=round(left.most * part.height) if left else None,
        detail_kept=left.kept if left else None,
        banding=float(np.mean(steps)) if steps else None,
    )
