"""How like each pair of frames is, of every frame: SSIM, PSNR, and the difference eyes see."""

from ..alignment.picture_map import PictureMap
from ..decoded.grid import Reduced
from ..decoded.metrics import colour_difference, quick_likeness
from ..model import FrameLikeness

PATCH = 16
"""A side of the patches that colours are compared by: 40 of them across the picture."""


def likeness(
    numbers: tuple[int, int], master: Reduced, export: Reduced, picture_map: PictureMap
) -> FrameLikeness:
    """Return how like an export's frame is to what the master's makes one expect.

    numbers: of master and export. master, export: small pictures (alignment/signature.py).
    """
    expected, delivered = picture_map.planes(master, export, step=2)
    alike, noise = quick_likeness(expected["luma"], delivered["luma"])
    seen = colour_difference(expected, delivered, picture_map.goal, patch=PATCH)
    return FrameLikeness(
        master_frame=numbers[0],
        export_frame=numbers[1],
        ssim=round(alike, 5),
        psnr=round(noise, 2),
        delta_e=round(seen[0], 3) if seen else None,
        delta_e_worst=round(seen[1], 3) if seen else None,
    )
