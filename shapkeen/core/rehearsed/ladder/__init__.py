"""The ladder: renditions that a service makes of a picture, really coded, and how they suffer."""

from .excerpts import Excerpt, choose_excerpts
from .renditions import Plan, plan_ladder

__all__ = ["Excerpt", "Plan", "choose_excerpts", "plan_ladder"]
