"""Acts on colour triples that a picture may have suffered, each with the codes that it predicts.

Sources: ITU-R BT.2100-2, BT.1886, BT.2390-8 5.4.1, BT.2408; H.273; IEC 61966-2-1.
"""

from collections.abc import Iterator, Mapping

import numpy as np

from ...colour import pq
from ...colour.coding import (
    HLG,
    LINEAR,
    PQ,
    SRGB,
    Coding,
    Triples,
    codes_from_signal,
    light_from_signal,
    signal_from_codes,
    signal_from_light,
)
from ...colour.matrix import rgb_from_ycbcr, ycbcr_from_rgb
from ...colour.primaries import between
from ...colour.tone_maps import rolled_off
from ..model import Act
from .acts import lowered, powered, squeezed, stretched

MATRICES = (1, 6, 9)
GAMUTS = (1, 12, 9)
WHITES = (100.0, 203.0)
"""Light of SDR white inside HDR: BT.1886's display, and ITU-R BT.2408."""
EXPONENTS = np.arange(0.4, 2.61, 0.02)
COARSE_EXPONENTS = np.arange(0.6, 1.7, 0.02)
LEAST_PEAK, PEAK_STEPS = 80.0, 60
Candidate = Iterator[tuple[str, Mapping[str, float], Triples]]


def candidates(codes: Triples, coding: Coding) -> Candidate:
    """Yield every act with a formula: name, parameters, and the codes that it predicts."""
    yield "identity", {}, codes
    yield from _ranges(codes)
    for bits in (7, 6):
        yield "depth-reduced", {"bits": bits}, lowered(codes, bits)
    yield from powers(codes, coding)
    if not coding.is_known:
        return
    yield from _matrices(codes, coding)
    signal = np.clip(signal_from_codes(codes, coding), 0.0, 1.0)
    light = light_from_signal(signal, coding.transfer)
    yield from _gamuts(light, coding)
    yield from _transfers(light, coding)
    yield from _clips(signal, coding)
    if coding.transfer == PQ:
        yield from _roll_offs(light, coding)


def first_acts(codes: Triples, coding: Coding) -> Candidate:
    """Yield acts on colour that another act may follow: wrong matrices, conversions, cuts."""
    signal = np.clip(signal_from_codes(codes, coding), 0.0, 1.0)
    yield from _matrices(codes, coding)
    yield from _gamuts(light_from_signal(signal, coding.transfer), coding)


def second_acts(codes: Triples, coding: Coding) -> Candidate:
    """Yield acts on tone that may follow, their parameters in coarse steps."""
    signal = np.clip(signal_from_codes(codes, coding), 0.0, 1.0)
    yield from _ranges(codes)
    yield from powers(codes, coding, COARSE_EXPONENTS)
    yield from _transfers(light_from_signal(signal, coding.transfer), coding)


def of_family(act: Act, codes: Triples, coding: Coding) -> Candidate:
    """Yield what one act, and others of its family, make of codes; nothing for one that depends
    on the picture that it was done to."""
    if act.name in ("range-compressed", "range-expanded"):
        yield from _ranges(codes)
    elif act.name == "gamma-shifted":
        yield from powers(codes, coding, np.array([act.values["exponent"]]))
    elif act.name == "matrix-swapped":
        yield from _matrices(codes, coding)
    elif act.name in ("gamut-converted", "transfer-converted"):
        signal = np.clip(signal_from_codes(codes, coding), 0.0, 1.0)
        light = light_from_signal(signal, coding.transfer)
        family = _gamuts if act.name == "gamut-converted" else _transfers
        yield from family(light, coding)


def _ranges(codes: Triples) -> Candidate:
    away = codes[:, 1:] - 512
    for act, luma, gain in (
        ("range-compressed", squeezed(codes[:, 0]), 896 / 1023),
        ("range-expanded", stretched(codes[:, 0]), 1023 / 896),
    ):
        yield act, {}, np.column_stack([luma, 512 + away * gain])


def powers(codes: Triples, coding: Coding, exponents: Triples = EXPONENTS) -> Candidate:
    """Yield powers of luma alone and of each of R'G'B'."""
    for exponent in exponents:
        values = {"exponent": round(float(exponent), 3)}
        luma = powered(codes[:, 0], float(exponent), full_range=coding.full_range)
        yield "gamma-shifted", values, np.column_stack([luma, codes[:, 1:]])
    if coding.is_known:
        signal = np.clip(signal_from_codes(codes, coding), 0.0, 1.2)
        for exponent in exponents:
            values = {"exponent": round(float(exponent), 3)}
            yield "gamma-shifted", values, codes_from_signal(signal**exponent, coding)


def _matrices(codes: Triples, coding: Coding) -> Candidate:
    """Yield both mistakes: read with another matrix and coded anew, or coded with another one."""
    own = coding.matrix
    for other in MATRICES:
        if _same_weights(own, other):
            continue
        for source, goal, step in (
            (own, other, ycbcr_from_rgb(own) @ rgb_from_ycbcr(other)),
            (other, own, ycbcr_from_rgb(other) @ rgb_from_ycbcr(own)),
        ):
            offset = np.array([64.0 if not coding.full_range else 0.0, 512.0, 512.0])
            scale = np.array([876.0, 896.0, 896.0]) if not coding.full_range else np.full(3, 1023.0)
            moved = ((codes - offset) / scale @ step.T) * scale + offset
            yield "matrix-swapped", {"from": source, "to": goal}, moved


def _same_weights(one: int, other: int) -> bool:
    return bool(np.allclose(ycbcr_from_rgb(one), ycbcr_from_rgb(other)))


def _gamuts(light: Triples, coding: Coding) -> Candidate:
    own, transfer = coding.primaries, coding.transfer
    for other in GAMUTS:
        if other == own or (own in (5, 6) and other == 1):
            continue
        there = light @ between(own, other).T
        signal = signal_from_light(np.maximum(there, 0.0), transfer)
        yield "gamut-converted", {"from": own, "to": other}, codes_from_signal(signal, coding)
        if GAMUTS.index(other) < (GAMUTS.index(own) if own in GAMUTS else 0):
            inside = np.maximum(there, 0.0) @ between(other, own).T
            signal = signal_from_light(np.maximum(inside, 0.0), transfer)
            yield "gamut-clipped", {"to": other}, codes_from_signal(signal, coding)


def _transfers(light: Triples, coding: Coding) -> Candidate:
    own = coding.transfer
    goals = {PQ: (HLG, LINEAR), HLG: (PQ, LINEAR), SRGB: (1, LINEAR, PQ, HLG)}
    for goal in goals.get(own, (SRGB, LINEAR, PQ, HLG)):
        values = {"from": own, "to": goal}
        whites = WHITES if own not in (PQ, HLG) and goal in (PQ, HLG) else WHITES[:1]
        for white in whites:
            signal = signal_from_light(light * (white / WHITES[0]), goal)
            yield "transfer-converted", values, codes_from_signal(signal, coding)


def _clips(signal: Triples, coding: Coding) -> Candidate:
    """Yield flat cuts of R'G'B' and of luma, at levels over the upper part of what there is."""
    top = float(signal.max())
    for level in np.linspace(0.35 * top, 0.985 * top, 80):
        shown = float(level)
        if coding.transfer == PQ:
            shown = float(pq.light_from_signal(level))
        values = {"level": round(shown, 4)}
        yield "highlights-clipped", values, codes_from_signal(np.minimum(signal, level), coding)


def _roll_offs(light: Triples, coding: Coding) -> Candidate:
    """Yield roll-offs to smaller peaks by the knee of ITU-R BT.2390-8 5.4.1, black at 0."""
    source = float(light.max())
    if source <= LEAST_PEAK:
        return
    for goal in np.geomspace(LEAST_PEAK, 0.95 * source, PEAK_STEPS):
        signal = rolled_off(light, source=source, goal=float(goal))
        yield "tone-compressed", {"peak": round(float(goal), 1)}, codes_from_signal(signal, coding)
