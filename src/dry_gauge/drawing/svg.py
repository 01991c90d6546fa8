"""A few strokes for writing SVG with ElementTree: numbers short, classes for the stylesheet to colour."""

from __future__ import annotations

from xml.etree import ElementTree as ET

Element = ET.Element


def number(value: float) -> str:
    """At most two decimals, none if it needs none."""
    return f"{value:.2f}".rstrip("0").rstrip(".")


def add(parent: Element, tag: str, css: str = "", text: str | None = None, **attributes: str | float) -> Element:
    """Append an element; ``stroke_width=2`` becomes ``stroke-width="2"``."""
    element = ET.SubElement(parent, tag)
    if css:
        element.set("class", css)
    for name, value in attributes.items():
        element.set(name.rstrip("_").replace("_", "-"), value if isinstance(value, str) else number(value))
    if text is not None:
        element.text = text
    return element


def picture(width: float, height: float, css: str, title: str, description: str, ident: str) -> Element:
    """An SVG root with a title and a description that screen readers speak."""
    root = ET.Element("svg", {
        "xmlns": "http://www.w3.org/2000/svg", "viewBox": f"0 0 {number(width)} {number(height)}", "class": css,
        "role": "img", "aria-labelledby": f"{ident}-title {ident}-desc",
    })  # fmt: skip
    add(root, "title", text=title, id=f"{ident}-title")
    add(root, "desc", text=description, id=f"{ident}-desc")
    return root


def hatch(root: Element, ident: str, spacing: float = 6.0) -> None:
    """Define the hatch that marks a target, as ``url(#ident)``."""
    definitions = add(root, "defs")
    pattern = add(
        definitions, "pattern", id=ident, width=spacing, height=spacing, patternUnits="userSpaceOnUse",
        patternTransform="rotate(45)",
    )  # fmt: skip
    add(pattern, "line", "hatch-line", x1=0, y1=0, x2=0, y2=spacing)


def fades(root: Element, ident: str, sides: tuple[str, ...]) -> None:
    """Define, for each side, a fade that is solid at the top (``ident-side-d``) or at the bottom (``-u``)."""
    definitions = add(root, "defs")
    for side in sides:
        for way, (first, last) in {"d": (1, 0), "u": (0, 1)}.items():
            gradient = add(definitions, "linearGradient", id=f"{ident}-{side}-{way}", x1="0", y1="0", x2="0", y2="1")
            for offset, opacity in ((0, first), (1, last)):
                add(gradient, "stop", f"stop-{side}", offset=str(offset), stop_opacity=str(opacity))


def written(root: Element) -> str:
    """The SVG as text."""
    return ET.tostring(root, encoding="unicode")
