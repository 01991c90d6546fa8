"""What a browser sends, before it is an entry: fields by name, numbers as people type them, units as people write them."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from uuid import UUID

from fastapi import Request
from fastapi.exceptions import RequestValidationError

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import in_unit, typed_number

_PLACE = re.compile(r"[a-z0-9-]{1,60}")


@dataclass(frozen=True, slots=True)
class EntryForm:
    """One entry of any kind, as form fields: texts by name, several where several were ticked.

    `beside` names the form on the page, where an error is said.
    """

    entry_id: UUID
    kind: str
    fields: Mapping[str, Sequence[str]]

    def get(self, name: str) -> str:
        """One field's text; nothing if it was not sent."""
        values = self.fields.get(name) or [""]
        return values[-1]

    @property
    def beside(self) -> str:
        """Name of the form that was sent, or nothing."""
        place = self.get("beside")
        return place if _PLACE.fullmatch(place) else ""

    @property
    def circuit(self) -> int | None:
        """The circuit it names."""
        number = self.get("circuit")
        return int(number) if number.isdecimal() and len(number) < 3 else None


async def entry_form(request: Request) -> EntryForm:
    """Read the form of an entry.

    Raises
    ------
    RequestValidationError
        Without an id that a browser made.
    """
    sent = await request.form()
    try:
        return form_of((name, value) for name, value in sent.multi_items() if isinstance(value, str))
    except ValueError:
        raise RequestValidationError([{"loc": ("body", "entry_id"), "msg": "", "type": "uuid"}]) from None


def form_of(sent: Iterable[tuple[str, str]]) -> EntryForm:
    """Names and values of one form.

    Raises
    ------
    ValueError
        Without an id that a browser made.
    """
    fields: dict[str, list[str]] = {}
    for name, value in sent:
        if name != "csrftoken":
            fields.setdefault(name, []).append(value)
    entry_id = UUID((fields.pop("entry_id", None) or [""])[0])
    return EntryForm(entry_id, (fields.pop("kind", None) or [""])[0], fields)


_TYPED = re.compile(r"([-+−–]?\s*[\d.,]+)\s*([^\d\s].*)?")


def metered(form: EntryForm) -> dict[str, object]:
    """With which meter it was read, and whether live."""
    live = {"source": "probe"} if form.get("source") == "probe" else {}
    return {"instrument": form.get("instrument").strip(), **live}


def parse_number(text: str) -> tuple[float, str]:
    """A typed number, and the unit written behind it (or nothing).

    Raises
    ------
    Refused
        For nothing, for words, or where a comma could mean two things.
    """
    typed = text.strip()
    if not typed:
        raise Refused("Type a number. To take a value back, touch its line under Done so far.", "value")
    match = _TYPED.fullmatch(typed)
    return (typed_number(match[1]), (match[2] or "").strip()) if match else (typed_number(typed), "")


Reads = Callable[[EntryForm], Mapping[str, object]]
"""How one kind's fields are read from a form."""


def plain(*names: str, lists: Sequence[str] = (), blank: Sequence[str] = ()) -> Reads:
    """Fields that go into the entry as they are; `lists` may be ticked several times, `blank` are sent empty as well."""

    def read(form: EntryForm) -> Mapping[str, object]:
        sent = {name: form.fields[name] if name in lists else form.get(name) for name in names if name in form.fields}
        return {name: value for name, value in sent.items() if value != "" or name in blank}

    return read


def number(form: EntryForm, field: str, what: str) -> float | None:
    """A number, or nothing.

    Raises
    ------
    Refused
    """
    text = form.get(field).strip()
    return typed_number(text, field, what) if text else None


def number_in(form: EntryForm, field: str, what: str, unit: str, *, typed_in: str) -> float | None:
    """A number in the unit that its entry keeps, or nothing; the field `typed_in` says in which it was typed, if in another."""
    value = number(form, field, what)
    try:
        return None if value is None else in_unit(value, form.get(typed_in), unit, unit)
    except Refused as refusal:
        raise Refused(refusal.message, field) from None


def texts(form: EntryForm, *names: str) -> dict[str, object]:
    """Fields as they are, nothing for those that were not sent."""
    return {name: form.get(name) for name in names}


def ticks(form: EntryForm, *names: str) -> dict[str, object]:
    """Boxes by name."""
    return {name: ticked(form, name) for name in names}


def ticked(form: EntryForm, field: str) -> bool:
    """Whether a box is ticked."""
    return form.get(field) in ("yes", "on", "true")
