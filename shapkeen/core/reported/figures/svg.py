"""Writing SVG elements as text, with every value escaped."""

from xml.sax.saxutils import escape, quoteattr

CAMEL = frozenset({"viewBox", "preserveAspectRatio"})
"""Attributes that keep their own writing."""


def number(value: float) -> str:
    """Return a coordinate with at most two decimals."""
    return f"{value:.2f}".rstrip("0").rstrip(".")


def element(name: str, *inner: str, **attributes: object) -> str:
    """Return an element; `class_` gives class, underscores become hyphens, None is left out."""
    parts = []
    for key, value in attributes.items():
        if value is None:
            continue
        attribute = key if key in CAMEL else key.rstrip("_").replace("_", "-")
        shown = number(value) if isinstance(value, float) else str(value)
        parts.append(f" {attribute}={quoteattr(shown)}")
    body = "".join(inner)
    return f"<{name}{''.join(parts)}>{body}</{name}>" if body else f"<{name}{''.join(parts)}/>"


def text(value: str, x: float, y: float, **attributes: object) -> str:
    """Return a text element at a place."""
    return element("text", escape(value), x=float(x), y=float(y), **attributes)


def line(x1: float, y1: float, x2: float, y2: float, **attributes: object) -> str:
    """Return a straight line."""
    ends = {"x1": float(x1), "y1": float(y1), "x2": float(x2), "y2": float(y2)}
    return element("line", **ends, **attributes)


def path(points: list[tuple[float, float]], **attributes: object) -> str:
    """Return an open path through points."""
    steps = " L".join(f"{number(x)} {number(y)}" for x, y in points)
    return element("path", d=f"M{steps}", **attributes)


def rect(x: float, y: float, width: float, height: float, **attributes: object) -> str:
    """Return a rectangle."""
    place = {"x": float(x), "y": float(y), "width": float(width), "height": float(height)}
    return element("rect", **place, **attributes)


def drawing(
    width: float, height: float, *inner: str, label: str, class_: str, **attributes: object
) -> str:
    """Return a whole drawing with its accessible name."""
    return element(
        "svg",
        element("title", escape(label)),
        *inner,
        viewBox=f"0 0 {number(width)} {number(height)}",
        role="img",
        class_=class_,
        aria_label=label,
        **attributes,
    )
