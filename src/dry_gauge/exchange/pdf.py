"""HTML set as PDF."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path


def pdf_of(html: str, styles: str, fonts: Mapping[str, Path], pictures: Mapping[str, bytes]) -> bytes:
    """One document as PDF, tagged for screen readers.

    Parameters
    ----------
    html : str
        A whole page. What it asks for from outside is left out.
    styles : str
        Its style sheet; ``url(font:NAME)`` in it means one of `fonts`.
    fonts : mapping of str to Path
        Font files by name.
    pictures : mapping of str to bytes
        JPEG pictures by name; ``picture:NAME`` in the page means one of them.
    """
    # Who only has pages set elsewhere does not pay for what sets them: a second of each start, and its memory.
    from dry_gauge.exchange.typesetting import set_as_pdf

    return set_as_pdf(html, styles, fonts, pictures)
