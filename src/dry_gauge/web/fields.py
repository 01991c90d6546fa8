"""Fields of plain forms: words, whole numbers and days, each refused with its name and what to do."""

from __future__ import annotations

from base64 import b64decode
from collections.abc import Mapping
from datetime import date
from uuid import UUID, uuid5

import uuid6
from fastapi import Depends, Request
from fastapi.exceptions import RequestValidationError
from starlette.datastructures import UploadFile

from dry_gauge.core.errors import Refused
from dry_gauge.exchange.sheets_csv import MOST_BYTES

LONGEST = 200
Fields = dict[str, str]


async def fields_of(request: Request) -> Fields:
    """A form's texts.

    Raises
    ------
    RequestValidationError
        For a character that no database keeps.
    """
    texts = {name: value for name, value in (await request.form()).items() if isinstance(value, str)}
    unstorable = next((name for name, value in texts.items() if "\0" in value), None)
    if unstorable is not None:
        raise RequestValidationError([{"loc": ("body", unstorable), "msg": "", "type": "nul"}])
    return texts


FORM = Depends(fields_of)


def key_in(fields: Mapping[str, str]) -> UUID:
    """Under which a form keeps what it makes: the same for the same form with the same words, so that sent twice it makes one."""
    try:
        form = UUID(fields.get("made", ""))
    except ValueError:
        return uuid6.uuid7()
    return uuid5(form, repr(sorted(item for item in fields.items() if item[0] != "csrftoken")))


def text_in(fields: Mapping[str, str], name: str, label: str, *, needed: bool = False, longest: int = LONGEST) -> str:
    """What was typed, without blanks around it.

    Raises
    ------
    Refused
    """
    text = fields.get(name, "").strip()
    if needed and not text:
        raise Refused(f"{label} is needed.", name)
    if len(text) > longest:
        raise Refused(f"{label} is too long: at most {longest} characters fit.", name)
    return text


def whole_in(fields: Mapping[str, str], name: str, label: str, low: int, high: int) -> int | None:
    """A whole number within its range; None where nothing was typed.

    Raises
    ------
    Refused
    """
    text = fields.get(name, "").strip()
    if not text:
        return None
    if not text.isdecimal() or not low <= int(text) <= high:
        raise Refused(f"{label} is a whole number from {low} to {high}.", name)
    return int(text)


def day_in(fields: Mapping[str, str], name: str, label: str) -> date | None:
    """A day; None where nothing was typed.

    Raises
    ------
    Refused
    """
    text = fields.get(name, "").strip()
    try:
        return date.fromisoformat(text) if text else None
    except ValueError:
        raise Refused(f"{label} is a date, such as 2026-11-24.", name) from None


async def table_sent(request: Request) -> tuple[bytes, bool]:
    """A table as a form sends it: a file to be looked at, or the same again to be taken; and which of the two.

    What is too long is cut just beyond what is read, and refused there.
    """
    form = await request.form(max_files=1)
    sent, again = form.get("file"), form.get("raw")
    if isinstance(again, str) and again:
        try:
            return b64decode(again, validate=True), bool(form.get("take"))
        except ValueError:
            return b"", False
    raw = await sent.read(MOST_BYTES + 1) if isinstance(sent, UploadFile) else b""
    return raw, False
