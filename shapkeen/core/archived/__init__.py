"""Archives: BagIt bags (RFC 8493), written so that a crash loses little, and checked again."""

from .check import BagCheck, Problem, check_bag
from .write import Item, Left, write_bag

__all__ = ["BagCheck", "Item", "Left", "Problem", "check_bag", "write_bag"]
