"""Viewers' screens: what each adds to a rendition, and how large it is in the viewer's eyes."""

from .fitting import Fit, Layout, fit_on
from .screens import SCREENS, Screen, rendition_for, screen_named

__all__ = ["SCREENS", "Fit", "Layout", "Screen", "fit_on", "rendition_for", "screen_named"]
