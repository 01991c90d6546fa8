"""Pages set as PDF: our templates with the day's colours and the fonts that ship with us."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from typing import Any

from fastapi import HTTPException, Request

from dry_gauge.exchange.pdf import pdf_of
from dry_gauge.service.apart import Apart, TooMuch
from dry_gauge.web.render import STATIC, TEMPLATES
from dry_gauge.web.styles import style_sheet

_FONTS = ("b612-latin-400-normal.woff2", "b612-latin-700-normal.woff2")
_FACES = "".join(
    f'@font-face {{ font-family: "B612"; src: url("font:{name}"); font-weight: {weight}; }}'
    for name, weight in zip(_FONTS, (400, 700), strict=True)
)
_PLAIN = (
    'body { font: 10pt/1.35 "B612", "DejaVu Sans", sans-serif; color: #14201f; margin: 0; } '
    "p, h1, h2, h3, dl, dd, ul, ol { margin: 0; padding: 0; } ul, ol { list-style: none; } small { font-weight: 400; } "
)


def paper(
    press: Apart, template: str, values: Mapping[str, Any], *sheets: str, pictures: Mapping[str, bytes] | None = None
) -> bytes:
    """A template as PDF. It takes seconds: in a process of its own, and nothing should be held meanwhile.

    Parameters
    ----------
    sheets : str
        Style sheets of ours; names of colours in them become the day's.
    pictures : mapping of str to bytes
        JPEG pictures by name; ``picture:NAME`` in the template means one of them.

    Raises
    ------
    HTTPException
        503 where it was too much.
    """
    html = TEMPLATES.get_template(template).render(values)
    styles = _FACES + _PLAIN + "".join(by_day(sheet) for sheet in sheets)
    try:
        return press.do(pdf_of, html, styles, {name: STATIC / "vendor" / name for name in _FONTS}, dict(pictures or {}))
    except TooMuch:
        raise HTTPException(503, "This page is too long to be set as PDF here. Print it from the browser.") from None


def press_of(request: Request) -> Apart:
    """The process in which this application sets its PDFs."""
    press: Apart = request.app.state.press
    return press


@cache
def by_day(sheet: str) -> str:
    """A style sheet with the day's colours in place of their names: a PDF knows no variables."""
    return coloured((STATIC / sheet).read_text())


def coloured(styles: str) -> str:
    """The same for a few rules."""
    return re.sub(r"var\((--[\w-]+)\)", lambda found: _day_colours()[found[1]], styles)


@cache
def _day_colours() -> Mapping[str, str]:
    palette = style_sheet().split(":root {", 1)[1].split("}", 1)[0]
    return dict(re.findall(r"(--[\w-]+): ([^;]+);", palette))
