"""What became of the brightest light and of the most saturated colours: kept, or cut at an edge.

Told by all samples of the sampled pairs, for a highlight or a lamp covers few of them and no even
block. Held against each other sample by sample: what coding took of a small highlight is in
proportion to it, a cut ends at one level (docs/checks.md 4 and 8).
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from ...colour import pq
from ...colour.coding import PQ, Coding, Triples, light_from_signal, signal_from_codes
from ...colour.primaries import between
from ...colour.tone_maps import rolled_off
from ..decoded.grid import Real
from ..model import GamutEdge, HighlightEdge
from .blocks import Blocks

LEVELS = 176
"""Bins of signal from 0 to TOP: five codes each."""
TOP = 1.1
SMALLER = (12, 1)
"""Gamuts that a picture may be cut to, H.273: P3-D65 and BT.709."""
SHARES = 120
SHARE_LOW, SHARE_HIGH = -0.1, 0.38
"""How far a colour lies outside a gamut: its least channel below 0, as a share of its largest."""
LEAST_OUTSIDE, LEAST_SAMPLES, LEAST_A_LEVEL = 0.012, 150, 12
LEAST_COLOURED = 400
"""Samples outside a gamut: fewer are what a highlight cut, or coding alone, moves."""
TRUSTED = 500
NEAR = 0.8
"""Of a level: from there on, what lies below it is looked at too."""
COLOURED = 0.1
"""Of the signal, between the brightest and the darkest channel: greyer colours lie outside no
gamut."""
MOST_COLOURED = 20_000
"""Coloured samples of a pair that are looked at, evenly picked."""
NARROWER = {9: (12, 1), 12: (1,), 11: (1,)}
"""Own primaries → gamuts within them."""
WHITES = (1.0, 1.02, 1.04, 1.07, 1.1)
"""Of the signal of a picture's own white: what a roll-off may bring down, the peak that a display
or a mastering volume has, and which no sample of the picture need reach."""
LIT_SIGNAL = 0.15
CALM_CODES = 26.0
"""Of ten bits, over a sample and its neighbours: there, coding moves no edge over the sample."""
Counts = npt.NDArray[np.int64]
Planes = dict[str, Real]


@dataclass(frozen=True, slots=True)
class EdgeCounts:
    """Samples of a pair: brights (LEVELS, LEVELS) by expected and delivered signal of the brightest
    channel, calm of them those whose neighbours in the master are nearly like them; outside (2,
    SHARES, SHARES) by how far both lie outside each of SMALLER."""

    brights: Counts
    calm: Counts
    outside: Counts


def edge_counts(expected: Planes, delivered: Planes, coding: Coding) -> EdgeCounts:
    """Return the counts of a pair of planes: luma, and cb and cr of half its size."""
    signals = [_signals(planes, coding) for planes in (expected, delivered)]
    tops = [signal.max(axis=0) for signal in signals]
    most = [np.clip(top / TOP * LEVELS, 0, LEVELS - 1).astype(np.intp) for top in tops]
    calm = _calm(expected)
    brights = _joint(most[0], most[1], LEVELS)
    calm_brights = _joint(most[0][calm], most[1][calm], LEVELS)
    outside = []
    gamuts = [gamut for gamut in SMALLER if gamut in NARROWER.get(coding.primaries, ())]
    lit = (tops[0] > LIT_SIGNAL) & (tops[0] - signals[0].min(axis=0) > COLOURED)
    places = np.flatnonzero(lit)
    places = places[:: len(places) // MOST_COLOURED + 1]
    chosen = [np.clip(signal[:, places].T, 0, 1).astype(float) for signal in signals]
    light = [light_from_signal(one, coding.transfer).T for one in chosen] if gamuts else []
    for gamut in SMALLER:
        if gamut not in gamuts:
            outside.append(np.zeros((SHARES, SHARES), np.int64))
            continue
        shares = [_outside(one, coding.primaries, gamut) for one in light]
        step = (SHARE_HIGH - SHARE_LOW) / SHARES
        bins = [np.clip((one - SHARE_LOW) / step, 0, SHARES - 1).astype(np.intp) for one in shares]
        outside.append(_joint(bins[0], bins[1], SHARES))
    return EdgeCounts(brights, calm_brights, np.stack(outside))


def _calm(planes: Planes) -> npt.NDArray[np.bool_]:
    """Return at which of the samples of _signals (n,) the luma of all neighbours is alike."""
    luma, (rows, columns) = planes["luma"], planes["cb"].shape
    near = np.ones((3, 3), np.uint8)
    spread = np.asarray(cv2.dilate(luma, near) - cv2.erode(luma, near))
    return np.asarray(spread[::2, ::2][:rows, :columns] < CALM_CODES).ravel()


def _signals(planes: Planes, coding: Coding) -> Real:
    """Return R'G'B' (3, n) at chroma's grid: every second sample of luma, so that peaks stay."""
    cb, cr = planes["cb"], planes["cr"]
    luma = planes["luma"][::2, ::2][: cb.shape[0], : cb.shape[1]]
    rows, columns = luma.shape
    parts = (luma, cb[:rows, :columns], cr[:rows, :columns])
    zero = signal_from_codes(np.zeros((1, 3)), coding)[0]
    steps = signal_from_codes(np.eye(3), coding) - zero
    flat = np.stack([part.ravel() for part in parts])
    return np.asarray(steps.T.astype(np.float32) @ flat + zero[:, None].astype(np.float32))


def _joint(one: npt.NDArray[np.intp], other: npt.NDArray[np.intp], side: int) -> Counts:
    return np.bincount(one * side + other, minlength=side * side).reshape(side, side)


def _outside(light: Triples, own: int, gamut: int) -> Triples:
    """light: (3, n)."""
    there = between(own, gamut) @ light
    return np.asarray(-there.min(axis=0) / np.maximum(there.max(axis=0), 1e-6))


@dataclass(frozen=True, slots=True)
class _Least:
    """How many places a level must have to count, and how many must lie above a cut."""

    a_level: int
    above: int


OF_SAMPLES, OF_BLOCKS = _Least(LEAST_A_LEVEL, LEAST_SAMPLES), _Least(4, 20)


def find_highlight_edge(counts: Sequence[EdgeCounts], coding: Coding) -> HighlightEdge | None:
    """Return what became of the brightest light; None where too little of it is there."""
    brights = sum((one.brights for one in counts), np.zeros((LEVELS, LEVELS), np.int64))
    return _edge(brights, coding, OF_SAMPLES)


def find_calm_edge(counts: Sequence[EdgeCounts], coding: Coding) -> HighlightEdge | None:
    """Return the same by calm samples alone: inside a highlight, a cut is flat and a roll-off is
    not, whatever coding did to its border."""
    brights = sum((one.calm for one in counts), np.zeros((LEVELS, LEVELS), np.int64))
    return _edge(brights, coding, OF_SAMPLES)


def find_even_edge(gathered: Sequence[Blocks], coding: Coding) -> HighlightEdge | None:
    """Return the same by even blocks alone: their means hold no grain, and chroma in full."""
    sides = []
    for side in (0, 1):
        planes = [
            np.concatenate([getattr(blocks, name)[side] for blocks in gathered])
            for name in ("luma", "cb", "cr")
        ]
        sides.append(signal_from_codes(np.stack(planes, axis=1), coding).max(axis=1))
    levels = [np.clip(one / TOP * LEVELS, 0, LEVELS - 1).astype(np.intp) for one in sides]
    return _edge(_joint(levels[0], levels[1], LEVELS), coding, OF_BLOCKS)


def _edge(brights: Counts, coding: Coding, least: _Least) -> HighlightEdge | None:
    given, came, weight = _middles(brights, least.a_level)
    if len(given) < 6:
        return None
    # The few brightest samples are the master's own overshoot: they count by how many they are.
    trust = np.minimum(weight, TRUSTED)
    best: tuple[float, float] | None = None
    for level in np.linspace(given[len(given) // 4], given[-1], 160):
        above, near = given > level + TOP / LEVELS, given > NEAR * level
        if above.sum() < 3 or near.sum() < 5 or weight[above].sum() < least.above:
            continue
        if (near & (given < level)).sum() < 2:
            continue
        cut = _rms((came - np.minimum(given, level))[near], trust[near])
        if best is None or cut < best[0]:
            best = cut, float(level)
    if best is None:
        return None
    cut, level = best
    above, near = given > level + TOP / LEVELS, given > NEAR * level
    return HighlightEdge(
        level=level,
        nits=float(pq.light_from_signal(level)) if coding.transfer == PQ else None,
        cut=cut,
        rolled=_rolled(given, came, near, trust),
        kept=_rms((came - given)[near], trust[near]),
        slope=float(np.polyfit(given[above], came[above], 1, w=np.sqrt(trust[above]))[0]),
        samples=int(weight[above].sum()),
        levels=float(weight[above].sum() ** 2 / np.square(weight[above].astype(float)).sum()),
    )


def _middles(counts: Counts, least: int) -> tuple[Triples, Triples, Counts]:
    """Return the middle delivered signal of each level that has samples enough, and how many."""
    weight = counts.sum(axis=1)
    steps = np.cumsum(counts, axis=1)
    levels = np.flatnonzero(weight >= least)
    centres = (np.arange(LEVELS) + 0.5) * TOP / LEVELS
    came = []
    for level in levels:
        half = weight[level] / 2
        place = int(np.searchsorted(steps[level], half))
        before = steps[level][place - 1] if place else 0
        inside = (half - before) / max(counts[level][place], 1)
        came.append((place + inside) * TOP / LEVELS)
    return centres[levels], np.array(came), weight[levels]


def _rms(values: Triples, trust: Counts) -> float:
    return float(np.sqrt(np.average(np.square(values), weights=trust)) * 876)


def _rolled(given: Triples, came: Triples, near: npt.NDArray[np.bool_], trust: Counts) -> float:
    """Return what the best roll-off leaves over, by the knee of BT.2390 on the signal."""
    light = pq.light_from_signal(given)
    tried = (
        rolled_off(
            light,
            source=float(pq.light_from_signal(white)),
            goal=float(pq.light_from_signal(white * share)),
        )
        for white in np.minimum(given[-1] * np.array(WHITES), 1.0)
        for share in np.linspace(0.5, 0.99, 50)
    )
    return min(_rms((came - made)[near], trust[near]) for made in tried)


def find_gamut_edges(counts: Sequence[EdgeCounts]) -> tuple[GamutEdge, ...]:
    """Return by how much of it colours outside each smaller gamut still lie outside."""
    edges = []
    for place, gamut in enumerate(SMALLER):
        joint = sum((one.outside[place] for one in counts), np.zeros(1, np.int64))
        if joint.ndim != 2:
            continue
        step = (SHARE_HIGH - SHARE_LOW) / SHARES
        centres = SHARE_LOW + (np.arange(SHARES) + 0.5) * step
        rows = joint * (centres[:, None] > LEAST_OUTSIDE)
        samples = int(rows.sum())
        if samples < LEAST_COLOURED:
            continue
        given = float((rows.sum(axis=1) * centres).sum() / samples)
        came = float((rows.sum(axis=0) * centres).sum() / samples)
        edges.append(GamutEdge(gamut=gamut, samples=samples, given=given, came=came))
    return tuple(edges)
