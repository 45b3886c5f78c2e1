"""HDR folded into SDR by the usual ways, in plain NumPy: for exports that were tone mapped.

Sources, all from memory: clip; Reinhard et al., Photographic Tone Reproduction (2002), equation 4;
the filmic curve of games (Hable, 2010); a Moebius roll-off from a knee of 0.3; ITU-R BT.2390-8
5.4.1; ITU-R BT.2446-1 method A, its luma curve alone. Primaries are converted by colour-science.
"""

import warnings
from collections.abc import Callable

import numpy as np

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour

Light = np.ndarray
Curve = Callable[[Light, float], Light]
LUMA = np.array([0.2627, 0.6780, 0.0593])
"""Of BT.2020, where folding is done."""


def clip(x: Light, _most: float) -> Light:
    return np.minimum(x, 1.0)


def reinhard(x: Light, most: float) -> Light:
    return x * (1 + x / most**2) / (1 + x)


def hable(x: Light, most: float) -> Light:
    def curve(v: Light | float) -> Light:
        a, b, c, d, e, f = 0.15, 0.50, 0.10, 0.20, 0.02, 0.30
        return (v * (v * a + b * c) + d * e) / (v * (v * a + b) + d * f) - e / f

    return curve(x) / curve(most)


def mobius(x: Light, most: float) -> Light:
    knee = 0.3
    a = -(knee**2) * (most - 1) / (knee**2 - 2 * knee + most)
    b = (knee**2 - 2 * knee * most + most) / max(most - 1, 1e-6)
    return np.where(x <= knee, x, (b**2 + 2 * b * knee + knee**2) / (b - a) * (x + a) / (x + b))


def bt2390(x: Light, most: float, goal: float = 1.0) -> Light:
    """x, most, goal: light ÷ the light of SDR's white of 100 cd/m²."""
    signal, white, peak = (
        colour.models.eotf_inverse_ST2084(np.asarray(v, float) * 100) for v in (x, most, goal)
    )
    e1, top = signal / white, peak / white
    knee = 1.5 * top - 0.5
    t = np.clip((e1 - knee) / (1 - knee), 0, 1)
    spline = (2 * t**3 - 3 * t**2 + 1) * knee + (t**3 - 2 * t**2 + t) * (1 - knee)
    spline += (-2 * t**3 + 3 * t**2) * top
    return colour.models.eotf_ST2084(np.where(e1 < knee, e1, spline) * white) / 100


def bt2446(x: Light, most: float) -> Light:
    """x, most: light ÷ the light of SDR's white of 100 cd/m²."""
    rho_hdr, rho_sdr = 1 + 32 * (np.array([most, 1.0]) * 100 / 10_000) ** (1 / 2.4)
    y = np.clip(x / most, 0, 1) ** (1 / 2.4)
    yp = np.log(1 + (rho_hdr - 1) * y) / np.log(rho_hdr)
    bend = -1.1510 * yp**2 + 2.7811 * yp - 0.6302
    yc = np.where(yp <= 0.7399, 1.0770 * yp, np.where(yp < 0.9909, bend, 0.5 * yp + 0.5))
    return ((rho_sdr**yc - 1) / (rho_sdr - 1)) ** 2.4


CURVES: dict[str, Curve] = {
    "clip": clip,
    "reinhard": reinhard,
    "hable": hable,
    "mobius": mobius,
    "bt2390": bt2390,
    "bt2446": bt2446,
}
WAYS = ("channels", "luminance", "brightest", "greying")
"""The curve over each of R, G, B; over luminance, colours following it; over the brightest of the
three; over luminance, highlights losing their colour."""


def folded(light: Light, curve: str, way: str, *, white: float, peak: float) -> Light:
    """Return the BT.1886 signal (…, 3) in BT.709 of BT.2020 light (cd/m²) up to a peak.

    white: light that becomes SDR's white where nothing is rolled off, cd/m².
    """
    x, most = light / white, peak / white
    fold = CURVES[curve]
    if way == "channels":
        out = fold(x, most)
    else:
        y = (x.max(axis=-1) if way == "brightest" else x @ LUMA)[..., None]
        out = x * np.where(y > 1e-6, fold(y, most) / np.maximum(y, 1e-6), 1.0)
        if way == "greying":
            grey = np.clip((y / most - 0.18) * 0.75, 0, 1)
            out = out * (1 - grey) + fold(y, most) * grey
    spaces = (colour.RGB_COLOURSPACES[name] for name in ("ITU-R BT.2020", "ITU-R BT.709"))
    inside = np.clip(out @ colour.matrix_RGB_to_RGB(*spaces, None).T, 0, 1)
    return inside ** (1 / 2.4)
