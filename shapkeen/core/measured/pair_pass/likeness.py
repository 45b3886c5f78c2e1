"""How like each pair of frames is, of every frame: SSIM, PSNR, and the difference eyes see."""

from ..alignment.picture_map import PictureMap
from ..decoded.grid import Reduced
from ..decoded.metrics import colour_difference, psnr, ssim
from ..model import FrameLikeness

PATCH = 8
"""A side of the patches that colours are compared by: 80 of them across the picture."""


def likeness(
    numbers: tuple[int, int], master: Reduced, export: Reduced, picture_map: PictureMap
) -> FrameLikeness:
    """Return how like an export's frame is to what the master's makes one expect.

    numbers: of master and export. master, export: small pictures (alignment/signature.py).
    """
    expected, delivered = picture_map.planes(master, export, step=2)
    seen = colour_difference(expected, delivered, picture_map.goal, patch=PATCH)
    return FrameLikeness(
        master_frame=numbers[0],
        export_frame=numbers[1],
        ssim=round(ssim(expected["luma"], delivered["luma"]), 5),
        psnr=round(psnr(expected["luma"], delivered["luma"]), 2),
        delta_e=round(seen[0], 3) if seen else None,
        delta_e_worst=round(seen[1], 3) if seen else None,
    )
