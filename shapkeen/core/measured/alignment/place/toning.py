"""A master brought to its export's tones, so that one folded or blown out is known again."""

import numpy as np

from ...decoded.grid import Real, Rect, sample

SAMPLES = (128, 72)
QUANTILES = np.linspace(0, 1, 257)


def toned(master: Real, export: Real, master_active: Rect, export_active: Rect) -> Real:
    """Return the master's luma with tones as often as the export has them (histogram matching).

    Only the order of tones survives any tone curve that rises; so this undoes what a curve did to
    the likeness, and makes unrelated pictures no more alike than their places are.
    """
    given = np.quantile(sample(master, master_active, SAMPLES), QUANTILES)
    came = np.quantile(sample(export, export_active, SAMPLES), QUANTILES)
    rising, first = np.unique(given, return_index=True)
    return np.interp(master, rising, came[first]).astype(np.float32)
