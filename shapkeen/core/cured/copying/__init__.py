"""A copy of a file with some bytes exchanged: whole and verified under its name, or not there."""

from .patched import PatchedFile
from .patches import Patch, Patches
from .writing import Told, check_free, write_copy, write_new

__all__ = ["Patch", "PatchedFile", "Patches", "Told", "check_free", "write_copy", "write_new"]
