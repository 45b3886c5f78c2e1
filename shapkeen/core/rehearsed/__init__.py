"""What receivers and viewers make of a file. For now: viewers' screens, for looking at stills."""

from .screen import EYES, render_still

__all__ = ["EYES", "render_still"]
