"""How like each pair of frames is, of every frame: SSIM, PSNR, and the difference eyes see."""

from ..decoded.grid import Reduced
from ..model import FrameLikeness
from ..placed.laying import Laying
from ..tone.unlike import colour_difference, psnr, ssim

PATCH = 8
"""A side of the patches that colours are compared by: 80 of them across the picture."""


def likeness(
    numbers: tuple[int, int], one: Reduced, other: Reduced, laying: Laying
) -> FrameLikeness:
    """Return how like an export's frame is to what the master's makes one expect.

    numbers: of master and export. one, other: small pictures (small.py).
    """
    expected, delivered = laying.planes(one, other, step=2)
    seen = colour_difference(expected, delivered, laying.goal, patch=PATCH)
    return FrameLikeness(
        master_frame=numbers[0],
        export_frame=numbers[1],
        ssim=round(ssim(expected["luma"], delivered["luma"]), 5),
        psnr=round(psnr(expected["luma"], delivered["luma"]), 2),
        delta_e=round(seen[0], 3) if seen else None,
        delta_e_worst=round(seen[1], 3) if seen else None,
    )
