"""What is handed on as a file: PDFs to look at, tables to keep, each under a name that any system takes."""

from __future__ import annotations

import re

from fastapi import Response


def pdf_file(made: bytes, *words: str) -> Response:
    """A PDF, opened where it is asked for; named by these words."""
    name = re.sub(r"[^a-z0-9]+", "-", " ".join(words).lower()).strip("-")
    return Response(made, media_type="application/pdf", headers={"content-disposition": f'inline; filename="{name}.pdf"'})


def csv_file(text: str, name: str) -> Response:
    """A table, put away where it is asked for."""
    return Response(text, media_type="text/csv", headers={"content-disposition": f'attachment; filename="{name}.csv"'})
