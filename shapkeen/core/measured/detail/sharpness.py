"""What became of fine structure: softened, sharpened, or enlarged from a smaller picture.

Which act it was cannot be told from how much energy is left: each act is made again on the
expected picture, and the one that comes clearly closer to the export than nothing at all wins.
"""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import partial

import cv2
import numpy as np
import numpy.typing as npt

from ..model import HEALTHY_TRANSFER, DetailCurve, DetailFindings, DetailFit
from .crops import Crop, Samples

KERNELS = {
    "nearest": cv2.INTER_NEAREST,
    "linear": cv2.INTER_LINEAR,
    "cubic": cv2.INTER_CUBIC,
    "lanczos": cv2.INTER_LANCZOS4,
}
EDGE = 16
"""Samples at the rim that kernels reach over."""
COARSE_SIGMA = 4.0
"""Below this structure tone lives; it is taken out of the comparison."""
CODED = (0.0, 0.5, 0.8)
"""Lossy coding softens a little of its own (sigma, samples): a blur can hold that within itself, an
enlargement must be given it, or the blur would always seem the closer."""
BLURS = tuple(0.3 * 1.22**i for i in range(14))
RADII = (0.6, 0.9, 1.4, 2.0, 3.0)
REPEATS = (2, 3, 4)
SHARES = (1 / 3, 0.375, 0.4, 0.4444, 0.5, 0.5333, 0.6, 0.625, 2 / 3, 0.7, 0.75, 0.8, 0.8333, 0.9)
FINE_STEPS = (0.97, 0.985, 1.015, 1.03)
BANDS = 32
"""Of Nyquist."""
TILE = 96
MOST_TRIED = 2
"""Parts that acts are made again on: each takes a hundred tries."""
LEAST_POWER = 2.0
"""Spectral density in codes² below which the master has no structure: rounding to 8 bits alone
leaves 4² / 12 = 1.3."""
BAND = (0.5, 0.75)
"""Of Nyquist. Above ¾ even healthy lossy exports hold less than half of the master's energy."""
SHARPENED_TRANSFER = 1.06
"""No healthy export shows more; from here on acts are tried."""
COARSE = 0.25
"""Of Nyquist: what counts as coarse on the other axis."""
LEAST_SPAN = 40.0
ALIKE_SHARE, ALIKE_CODES, ALIKE_PERCENT = 0.4, 25.0, 95
"""Coarse structure that is off by this share of its own deviation in a twentieth of a part:
something was laid over it. Blurs and repeated samples leave a quarter at most, a graphic
seven tenths."""
FOOT, FOOT_PLACE, NEAR, LARGEST = 0.2, 1.07, 0.14, 0.9
"""Where a fifth still comes through lies a little above the smaller picture's own end: 1.0 to 1.14
times, whatever the kernel and the coding; sizes near it are tried."""
ALIKE = 0.2
"""Of a share: closer than this, both axes were made smaller alike."""
Pair = tuple[Samples, Samples]


@dataclass(slots=True)
class Spectra:
    """Power at every frequency of a tile (TILE × TILE, codes²), summed over `tiles` of them."""

    shared: npt.NDArray[np.float64] = field(default_factory=lambda: np.zeros((TILE, TILE)))
    own: npt.NDArray[np.float64] = field(default_factory=lambda: np.zeros((TILE, TILE)))
    there: npt.NDArray[np.float64] = field(default_factory=lambda: np.zeros((TILE, TILE)))
    tiles: int = 0


def find_sharpness(crops: Sequence[Crop]) -> DetailFindings | None:
    """Return what became of fine structure; None where the master has none there."""
    crops = [crop for crop in crops if _is_alike(crop)]
    if not crops:
        return None
    pairs = [_toned(crop.expected(cv2.INTER_CUBIC), crop.export) for crop in crops]
    spectra = _spectra(pairs)
    across, down = _curve(spectra, axis=1), _curve(spectra, axis=0)
    band = _band(across, down)
    if band is None:
        return None
    structure = float(np.sqrt(np.mean([np.var(_fine(one)) for one, _ in pairs])))
    found = DetailFindings(band, across, down, (), structure, crops[0].scale)
    return replace(found, fits=tuple(sorted(_fits(found, crops, pairs), key=lambda f: f.residual)))


def _fits(found: DetailFindings, crops: Sequence[Crop], pairs: Sequence[Pair]) -> list[DetailFit]:
    """Return the acts that were tried; nothing but identity where nothing seems to have happened.

    Of a picture of another size nobody knows the kernel, so there is nothing to make an act on.
    """
    if found.is_enlarged:
        return _kernels(crops)
    if found.is_resized or HEALTHY_TRANSFER < found.transfer < SHARPENED_TRANSFER:
        return [DetailFit("identity", _left(pairs), {})]
    tried = pairs[:MOST_TRIED]
    return [
        DetailFit("identity", _left(tried), {}),
        _best(tried, _blurred(BLURS)),
        _best_sharpened(tried),
        _best(tried, _repeated()),
        _best_shrunk(tried, found.across, found.down),
    ]


def _toned(expected: Samples, delivered: Samples) -> Pair:
    """Return both with the expected picture's tone brought to the delivered one's.

    By a curve of third degree through their coarse structure: a change of tone is no matter of
    sharpness.
    """
    one, other = (_coarse(plane).ravel()[::7] for plane in (expected, delivered))
    if float(np.ptp(one)) < LEAST_SPAN:
        return expected, delivered
    middle, span = float(one.mean()), float(np.ptp(one))
    curve = np.polynomial.Polynomial.fit((one - middle) / span, other, 3)
    made = curve((expected - middle) / span)
    return np.asarray(made, np.float32), delivered


def _is_alike(crop: Crop) -> bool:
    """Return whether both parts show the same picture: a graphic laid over one would not."""
    one, other = _toned(crop.expected(cv2.INTER_CUBIC), crop.export)
    off = _coarse(one - other)[EDGE:-EDGE, EDGE:-EDGE]
    limit = max(ALIKE_SHARE * float(_coarse(one).std()), ALIKE_CODES)
    return float(np.percentile(np.abs(off), ALIKE_PERCENT)) < limit


def _softened(plane: Samples, sigma: float) -> Samples:
    return np.asarray(cv2.GaussianBlur(plane, (0, 0), sigma), np.float32)


def _coarse(plane: Samples) -> Samples:
    return _softened(plane, COARSE_SIGMA)


def _fine(plane: Samples) -> Samples:
    """Return the structure finer than tone, the rim left out."""
    return (plane - _coarse(plane))[EDGE:-EDGE, EDGE:-EDGE]


def _left(pairs: Sequence[Pair]) -> float:
    """Return the root mean square of what lies between the fine structures, in codes."""
    squares = [float(np.mean(_fine(one - other) ** 2)) for one, other in pairs]
    return float(np.sqrt(np.mean(squares)))


@dataclass(frozen=True, slots=True)
class Act:
    """An act to be tried: what it is called, with which values, and how it is made."""

    name: str
    values: dict[str, float]
    make: Callable[[Samples], Samples]
    kernel: str = ""


def _best(pairs: Sequence[Pair], acts: Iterable[Act]) -> DetailFit:
    return min((_tried(pairs, act) for act in acts), key=lambda fit: fit.residual)


def _tried(pairs: Sequence[Pair], act: Act) -> DetailFit:
    left = _left([(act.make(one), other) for one, other in pairs])
    return DetailFit(act.name, left, act.values, act.kernel)


def _blurred(sigmas: Iterable[float]) -> Iterator[Act]:
    for sigma in sigmas:
        yield Act("softened", {"sigma": round(sigma, 3)}, partial(_softened, sigma=sigma))


def _repeated() -> Iterator[Act]:
    for ratio in REPEATS:
        make = partial(_shrunk, shares=(1 / ratio, 1 / ratio), way="nearest")
        yield Act("upscale-nearest", {"ratio": float(ratio)}, make)


def _best_sharpened(pairs: Sequence[Pair]) -> DetailFit:
    """Return the unsharp mask that comes closest; its amount is a matter of least squares."""
    best: DetailFit | None = None
    for sigma in RADII:
        edges = [one - _softened(one, sigma) for one, _ in pairs]
        parts = [
            (_fine(edge), _fine(other) - _fine(one))
            for edge, (one, other) in zip(edges, pairs, strict=True)
        ]
        power = sum(float((edge**2).sum()) for edge, _ in parts)
        amount = sum(float((e * d).sum()) for e, d in parts) / max(power, 1e-9)
        if amount <= 0:
            continue
        squares = [float(np.mean((d - amount * e) ** 2)) for e, d in parts]
        fit = DetailFit(
            "oversharpened",
            float(np.sqrt(np.mean(squares))),
            {"sigma": sigma, "amount": round(amount, 3)},
        )
        if best is None or fit.residual < best.residual:
            best = fit
    return best or DetailFit("oversharpened", _left(pairs), {"sigma": RADII[0], "amount": 0.0})


class _Kept:
    """An act that keeps what it made of each plane, by the plane itself."""

    def __init__(self, make: Callable[[Samples], Samples]) -> None:
        self._make = make
        self._made: dict[int, Samples] = {}

    def __call__(self, plane: Samples) -> Samples:
        made = self._made.get(id(plane))
        if made is None:
            made = self._made[id(plane)] = self._make(plane)
        return made


def _coded(plane: Samples, enlarged: _Kept, sigma: float) -> Samples:
    """Return what was enlarged, softened as by coding."""
    made = enlarged(plane)
    return _softened(made, sigma) if sigma else made


def _shrunk(plane: Samples, shares: tuple[float, float], way: str) -> Samples:
    """Return a picture made smaller by averaging and enlarged again."""
    height, width = plane.shape
    size = (max(round(width * shares[0]), 1), max(round(height * shares[1]), 1))
    smaller = cv2.resize(plane, size, interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.resize(smaller, (width, height), interpolation=KERNELS[way]), np.float32)


def _best_shrunk(pairs: Sequence[Pair], across: DetailCurve, down: DetailCurve) -> DetailFit:
    """Return the enlargement from a smaller picture that comes closest.

    Sizes near where the curves fall are tried: the common ratios, and what lies between.
    """
    guesses = _end(across), _end(down)
    tried = [(_common(guesses[0]), _common(guesses[1]))]
    tried += [(_common(guesses[0]), 1.0), (1.0, _common(guesses[1]))]
    if abs(guesses[0] - guesses[1]) < ALIKE * max(guesses):
        middle = (guesses[0] + guesses[1]) / 2
        tried += [(s, s) for s in SHARES if abs(s / middle - 1) < NEAR]
    best = _best(pairs, _shrinks(dict.fromkeys(tried)))
    shares = best.values["across"], best.values["down"]
    near = [tuple(min(s * f, 1.0) if s < 1 else 1.0 for s in shares) for f in FINE_STEPS]
    finer = _best(pairs, _shrinks([(a, b) for a, b in near]))
    return min((best, finer), key=lambda fit: fit.residual)


def _end(curve: DetailCurve) -> float:
    """Return the share of the raster at which structure seems to end."""
    foot = curve.crossing(FOOT)
    return min(foot / FOOT_PLACE, 1.0) if foot is not None else LARGEST


def _common(share: float) -> float:
    return min(SHARES, key=lambda s: abs(s - share))


def _shrinks(shares: Iterable[tuple[float, float]]) -> Iterator[Act]:
    for pair in shares:
        across, down = pair
        for way in ("linear", "cubic", "lanczos"):
            # Enlarged once by each kernel, whatever coding adds then.
            enlarged = _Kept(partial(_shrunk, shares=pair, way=way))
            for coded in CODED:
                make = partial(_coded, enlarged=enlarged, sigma=coded)
                yield Act("detail-below-raster", {"across": across, "down": down}, make, way)


def _kernels(crops: Sequence[Crop]) -> list[DetailFit]:
    """Return how well each kernel makes the export from the master."""
    found = []
    for name, way in KERNELS.items():
        pairs = [_toned(crop.expected(way), crop.export) for crop in crops]
        found.append(DetailFit(f"enlarged-{name}", _left(pairs), {}, name))
    return found


def _curve(spectra: Spectra, *, axis: int) -> DetailCurve:
    """Return the transfer along an axis (1: across), from structure that is coarse on the other."""
    frequency = np.abs(np.fft.fftfreq(TILE)) * 2
    place = np.minimum((frequency * BANDS).astype(int), BANDS - 1)
    along = np.broadcast_to(place[None, :] if axis else place[:, None], (TILE, TILE))
    coarse = (
        np.broadcast_to(frequency[:, None] if axis else frequency[None, :], (TILE, TILE)) < COARSE
    )
    count = np.bincount(along[coarse], minlength=BANDS)
    shared, own, there = (
        np.bincount(along[coarse], power[coarse], BANDS)
        for power in (spectra.shared, spectra.own, spectra.there)
    )
    power = own / np.maximum(count * max(spectra.tiles, 1), 1)
    rich = power > LEAST_POWER
    ratio = shared / np.maximum(own, 1e-9)
    alike = shared**2 / np.maximum(own * there, 1e-9)
    return DetailCurve(
        tuple((i + 0.5) / BANDS for i in range(BANDS)),
        tuple(float(v) if told else None for v, told in zip(ratio, rich, strict=True)),
        tuple(float(v) if told else None for v, told in zip(alike, rich, strict=True)),
    )


def _spectra(pairs: Sequence[Pair]) -> Spectra:
    """Return the power spectra of expected and delivered tiles, and what both share."""
    window = np.outer(np.hanning(TILE), np.hanning(TILE)).astype(np.float32)
    window /= np.sqrt((window**2).sum())
    found = Spectra()
    for one, other in _tiled(pairs):
        a, b = (np.fft.fft2((t - t.mean()) * window) for t in (one, other))
        found.shared += (b * a.conj()).real
        found.own += np.abs(a) ** 2
        found.there += np.abs(b) ** 2
        found.tiles += 1
    return found


def _tiled(pairs: Sequence[Pair]) -> Iterator[Pair]:
    for one, other in pairs:
        height, width = one.shape
        for top in range(0, height - TILE + 1, TILE):
            for left in range(0, width - TILE + 1, TILE):
                part = np.s_[top : top + TILE, left : left + TILE]
                yield one[part], other[part]


def _band(*curves: DetailCurve) -> float | None:
    """Return the mean transfer in BAND; None where the picture has no structure there."""
    found = [
        t
        for curve in curves
        for f, t in zip(curve.frequency, curve.transfer, strict=True)
        if t is not None and BAND[0] <= f < BAND[1]
    ]
    return float(np.mean(found)) if len(found) >= BANDS // 4 else None
