"""What goes wrong if the master goes out as it is.

Limits are the specification's; sentences without a limit are common practice.
"""

from collections.abc import Callable, Iterator
from dataclasses import replace
from fractions import Fraction

from ...colour.codepoints import TRANSFERS
from ...geometry.codec_profiles import CODEC_NAMES, MEZZANINE
from ...geometry.framing import fill_zoom, is_whole, lowered
from ...geometry.words import ratio_words as told
from ...geometry.words import size_words as sized
from ..specification import LIGHTS
from .layout import layout_of, sizes_of
from .plan import Plan
from .warning import HARM, NOTE, REFUSED, SHAPES_ALIKE, PlanWarning


def _squeezed(plan: Plan) -> Iterator[PlanWarning]:
    subject = plan.subject
    if subject.aspect == (1, 1) or not plan.specification.square:
        return
    h, v = subject.aspect
    off = 1 - v / h if h > v else v / h - 1
    word = "narrow" if h > v else "wide"
    yield PlanWarning(
        HARM,
        f"The pixel aspect {h}:{v} is not kept: everything is shown {off * 100:.0f} % too {word}, "
        "circles become eggs.",
        f"Resample to square samples: {sized(lowered(subject.raster, subject.aspect))}, or keep "
        "the height and widen. Bars drawn into the picture are no substitute.",
    )


def _other_shape(plan: Plan) -> Iterator[PlanWarning]:
    spec, subject = plan.specification, plan.subject
    if not spec.shape or abs(Fraction(*spec.shape) / subject.shape - 1) <= SHAPES_ALIKE:
        return
    zoom = fill_zoom(subject.shape, Fraction(*spec.shape))
    bars = "is given bars" if spec.bars else "is given bars, cut in its middle, or squashed"
    yield PlanWarning(
        HARM,
        f"A picture of {told(subject.shape)}:1 in a frame of {spec.shape[0]}:{spec.shape[1]} "
        f"{bars}, and nobody chose where.",
        f"Fill the frame (zoom {told(zoom)}, {float(100 / zoom):.0f} % of the picture kept) and "
        "place the cut shot by shot. Never squash.",
    )


def _other_raster(plan: Plan) -> Iterator[PlanWarning]:
    spec, raster = plan.specification, plan.subject.raster
    largest = max(spec.rasters or ((raster,)), key=lambda r: r[0] * r[1])
    if raster[0] > largest[0] and raster[1] > largest[1]:
        yield PlanWarning(
            HARM,
            f"{sized(raster)} is more than {sized(largest)}: the service makes it smaller with a "
            "filter of its own, or refuses it.",
            f"Make it smaller yourself: {sized(plan.layout.frame)}.",
        )
    better = spec.better_from_lines
    if better and raster[1] < better:
        yield PlanWarning(
            HARM,
            f"Below {better} lines the service encodes with an older codec at about 3 Mb/s: fine "
            "structure and dark gradients go.",
            _enlarging(plan, better),
        )


def _enlarging(plan: Plan, lines: int) -> str:
    """Return the size to enlarge to, so that a picture has so many lines; the least that does."""
    spec, choices = plan.specification, plan.choices
    if choices.mode == "cut":  # at full size nothing is enlarged
        choices = replace(choices, mode="fill")
    sizes = sizes_of(plan.subject, spec, choices.squeeze, choices.packing)
    layouts = (layout_of(plan.subject, spec, replace(choices, size=size)) for size in sizes)
    enough = [layout for layout in layouts if layout.frame[1] >= lines]
    if not enough:
        return "No size that is taken has as many lines: send the largest, at a high bit rate."
    least = min(enough, key=lambda layout: layout.enlargement)
    way = "exactly " if is_whole(least.enlargement) else ""
    return f"Enlarge before sending: {sized(least.frame)}, by {way}{told(least.enlargement)}."


def _other_light(plan: Plan) -> Iterator[PlanWarning]:
    if not plan.is_light_converted:
        return
    own, goal = plan.subject.light, plan.light
    if goal == "sdr":
        yield PlanWarning(
            HARM,
            f"{plan.subject.light_words} is not taken. Undecoded on an SDR screen it looks flat "
            "and milky.",
            "Make an SDR version from the master: fold the highlights by grading or a look-up "
            "table, convert to BT.709, and look at it.",
        )
    elif own == "sdr":
        yield PlanWarning(
            HARM,
            "The service wants HDR; an SDR master holds no highlights to show.",
            f"Convert to {TRANSFERS[LIGHTS[goal]]} with white at 203 cd/m² (ITU-R BT.2408), and do "
            "not stretch it.",
        )
    else:
        yield PlanWarning(
            HARM,
            f"{plan.subject.light_words} sent as {TRANSFERS[LIGHTS[goal]]} without conversion goes "
            "dark or harsh.",
            f"Convert the picture to {TRANSFERS[LIGHTS[goal]]} (ITU-R BT.2100-2, 1000 cd/m²), then "
            "change the tag with it.",
        )


def _hdr_facts(plan: Plan) -> Iterator[PlanWarning]:
    if plan.light != "pq" or plan.subject.light != "pq":
        return
    missing = []
    if plan.subject.mastered_on is None:
        missing.append("mastering display")
    if plan.subject.content_light is None:
        missing.append("MaxCLL and MaxFALL")
    if missing:
        peak = plan.specification.peak_nits
        yield PlanWarning(
            HARM,
            f"The master does not state {' nor '.join(missing)}; displays then guess how far to "
            "fold the highlights.",
            f"Enter them by hand{f' (mastered at {peak} cd/m²)' if peak else ''}; light levels can "
            "be measured here with any comparison.",
        )


def _other_rate(plan: Plan) -> Iterator[PlanWarning]:
    spec, rate = plan.specification, plan.subject.rate
    too_fast = spec.most_rate and rate > Fraction(*spec.most_rate)
    if not too_fast and (not spec.rates or rate in spec.frame_rates):
        return
    rates = " or ".join(told(one) for one in spec.frame_rates)
    limit = f"at most {told(Fraction(*spec.most_rate))}" if spec.most_rate else rates
    yield PlanWarning(
        REFUSED,
        f"{told(rate)} frames/s are not taken; taken: {limit}.",
        f"Export at {told(plan.choices.rate)} frames/s, and check the rate again after any other "
        "setting was changed.",
    )


def length_warnings(plan: Plan) -> Iterator[PlanWarning]:
    """Yield whether the picture is too long or too short."""
    seconds, length = plan.file_size.duration_s, plan.specification.length
    if not seconds:
        return
    if length.most_s and seconds > length.most_s:
        yield PlanWarning(
            REFUSED,
            f"{seconds:.1f} s are longer than the {length.most_s:g} s that are taken.",
            "Mark in and out, or cut a shorter version.",
        )
    if length.least_s and seconds < length.least_s:
        yield PlanWarning(
            REFUSED,
            f"{seconds:.1f} s are shorter than the {length.least_s:g} s that are asked for.",
            "Deliver a longer part.",
        )


def _carriage(plan: Plan) -> Iterator[PlanWarning]:
    subject, spec = plan.subject, plan.specification
    taken = {coding.codec for coding in spec.codecs}
    if subject.codec in MEZZANINE and subject.codec not in taken:
        yield PlanWarning(
            REFUSED,
            f"{CODEC_NAMES[subject.codec]} is a mezzanine codec: the service does not take it, and "
            "ordinary players show a black window.",
            f"Encode as {plan.codec_profile.title}.",
        )
    if subject.wrapper not in spec.wrappers:
        yield PlanWarning(
            REFUSED,
            f"A {subject.wrapper} file is not taken; {' or '.join(spec.wrappers)} is.",
            f"Export as {spec.wrappers[0]}, with the index first.",
        )
    if subject.bit_depth > spec.bit_depth:
        yield PlanWarning(
            NOTE,
            f"{subject.bit_depth} bits become {spec.bit_depth}: soft gradients, skies above all, "
            "can show bands.",
            "Let the export dither, or leave the master's grain in.",
        )


def _sphere(plan: Plan) -> Iterator[PlanWarning]:
    wanted, has = plan.specification.projection, plan.subject.projection
    if wanted and not has and abs(plan.subject.shape / 2 - 1) > SHAPES_ALIKE:
        yield PlanWarning(
            REFUSED,
            f"A sphere is asked for; the master is {told(plan.subject.shape)}:1 and states none.",
            "A whole sphere is 2:1. Stitch one, or choose another service.",
        )
    elif wanted and not has:
        yield PlanWarning(
            HARM,
            "Without the flag in the file a sphere is shown flat, its poles torn wide.",
            f"Write the projection ({wanted}, one eye) into the file; it can be added to a copy "
            "without encoding again.",
        )
    if has and not wanted:
        yield PlanWarning(
            HARM,
            "The service knows no spheres: viewers see the whole of it flat.",
            "Deliver a flat view cut from the sphere.",
        )


def _eyes(plan: Plan) -> Iterator[PlanWarning]:
    wanted, has = plan.specification.packings, plan.subject.stereo not in ("", "mono")
    if wanted and not has:
        yield PlanWarning(
            REFUSED,
            "Two eyes are asked for; the master states one.",
            "If it does hold two, state their packing; else this service is none for it.",
        )
    if has and not wanted:
        yield PlanWarning(
            HARM,
            "The service shows both eyes side by side or one above the other, to everyone.",
            "Deliver the left eye alone.",
        )


def _softening(plan: Plan) -> Iterator[PlanWarning]:
    if plan.specification.softens:
        yield PlanWarning(
            HARM,
            "The service's own encoding takes fine structure away.",
            "Sharpen a little before sending, and write it into the promise: what was sharpened "
            "on purpose is then no injury.",
        )


WITHOUT_PLAN: tuple[Callable[[Plan], Iterator[PlanWarning]], ...] = (
    _carriage,
    _other_rate,
    length_warnings,
    _squeezed,
    _other_shape,
    _other_raster,
    _other_light,
    _hdr_facts,
    _sphere,
    _eyes,
    _softening,
)
