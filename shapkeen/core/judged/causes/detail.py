"""Acts on fine structure."""

from collections.abc import Iterator, Set

from ...measured import DetailFindings
from .. import tolerances
from ..evidence import Evidence
from ..fineness import FoundDetail, found_detail
from ..geometry import framing_of
from ..model import Cause, explained
from ..rules.detail import enlargement_promised, true_size

WHY = {
    "softened": (
        "Fine structure is weaker than in the master, all of it alike: a blur, a soft scaler or a "
        "filter for noise.",
        "Switch off noise filters and softening, scale with a sharper kernel, or once instead of "
        "twice, and export again.",
    ),
    "oversharpened": (
        "Edges overshoot and fine structure is stronger than in the master: a sharpening filter "
        "was applied.",
        "Switch off sharpening in the export and in the scaler, and export again.",
    ),
    "generation-loss": (
        "Most of the fine structure is gone and what is left does not follow the master's: coding "
        "damage of a low bit rate, or of several generations.",
        "Export from the master itself, not from a delivery, at a higher bit rate.",
    ),
}


HARMED = {
    "generation-loss": ("tone", "gamut", "transfer", "range", "content_light", "shown_shape"),
    # A strong blur moves the colours of small things, and takes the brightest highlights.
    "softened": ("gamut", "tone"),
    "oversharpened": ("gamut", "tone"),
}
"""What else an act on fine structure harms: rough coding moves tones, colours and edges too."""


def _lost(found: FoundDetail, broken: Set[str]) -> Cause:
    why, cure = WHY[found.act]
    return Cause(
        id=found.act,
        traits=explained(broken, "detail", *HARMED[found.act]),
        strength=found.strength,
        values=dict(found.fit.values) if found.fit else {},
        why=why,
        remedy="re-export",
        cure=cure,
    )


def explain_detail(evidence: Evidence, broken: Set[str]) -> Iterator[Cause]:
    """Yield the act that took fine structure away, or added to it."""
    found = found_detail(evidence)
    detail = evidence.survey.detail if evidence.survey else None
    if "detail" not in broken or found is None:
        return
    if detail is None:
        yield _lost(found, broken)
        return
    if "eye_time" in broken:
        return  # an eye's other moment is not the same picture made softer
    traits = explained(broken, "detail", "raster")
    if found.act == "upscale-nearest":
        yield _repeated(found, traits)
    elif detail.is_enlarged:
        framing = framing_of(evidence)
        if not enlargement_promised(evidence) and not (framing and framing.has_cut):
            yield _enlarged(evidence, found, detail, traits)
    elif found.act == "detail-below-raster":
        yield _smaller(evidence, found, detail)
    elif found.act in WHY:
        yield _lost(found, broken)


def _repeated(found: FoundDetail, traits: tuple[str, ...]) -> Cause:
    ratio = found.fit.values["ratio"] if found.fit else 0.0
    return Cause(
        id="upscale-nearest",
        traits=traits,
        strength=found.strength,
        values={"ratio": round(ratio, 4)},
        why=f"The picture was enlarged {ratio:.4g} times by repeating samples: edges are stairs.",
        remedy="re-export",
        cure="Choose a smooth kernel in the scaler, and export again.",
    )


def _enlarged(
    evidence: Evidence, found: FoundDetail, detail: DetailFindings, traits: tuple[str, ...]
) -> Cause:
    ratio, size = detail.scale[0], true_size(evidence, detail) or (0, 0)
    whole = abs(ratio / round(ratio) - 1) < tolerances.WHOLE_RATIO
    cure = f"Export at {size[0]}×{size[1]}, or promise the enlargement."
    if whole:
        return Cause(
            id="detail-below-raster",
            traits=traits,
            strength=0.9,
            values={"width": size[0], "height": size[1]},
            why=f"The picture was enlarged {round(ratio)} times, which nobody promised: it holds "
            f"the detail of {size[0]}×{size[1]}.",
            remedy="re-export",
            cure=cure,
        )
    return Cause(
        id="upscale-noninteger",
        traits=traits,
        strength=max(found.strength, 0.9),
        values={"ratio": round(ratio, 4)},
        why=f"The picture was enlarged {ratio:.4g} times: samples fall between samples, and lines "
        "of one sample soften unevenly.",
        remedy="re-export",
        cure=f"{cure} A whole ratio (2, 3) keeps the sampling grid.",
    )


def _smaller(evidence: Evidence, found: FoundDetail, detail: DetailFindings) -> Cause:
    width, height = true_size(evidence, detail) or (0, 0)
    return Cause(
        id="detail-below-raster",
        traits=("detail",),
        strength=found.strength,
        values={"width": width, "height": height},
        why="The raster is as promised, but the picture holds the detail of about "
        f"{width}×{height}: it was made smaller on the way and enlarged again.",
        remedy="re-export",
        cure="Look for a timeline, a proxy or a render cache of the smaller size, set it to the "
        "master's own, and export again.",
    )
