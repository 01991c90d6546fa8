"""A signature as it was drawn."""

from __future__ import annotations

from dry_gauge.core.office.signature import BOX_HEIGHT, BOX_WIDTH, Signature
from dry_gauge.drawing import svg
from dry_gauge.drawing.svg import add


def signed_svg(signature: Signature, name: str, ident: str) -> str:
    """The strokes; nothing where a name was typed in their place."""
    if not signature.strokes:
        return ""
    root = svg.picture(BOX_WIDTH, BOX_HEIGHT, "signed", name, name, ident)
    add(root, "path", d=signature.path)
    return svg.written(root)
