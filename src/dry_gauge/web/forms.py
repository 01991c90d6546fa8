"""What a browser sends, before it is an entry: numbers as people type them, units as people write them."""

from __future__ import annotations

import re
from typing import Annotated
from uuid import UUID

from pydantic import BaseModel, BeforeValidator, ValidationError

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import unknown
from dry_gauge.core.judgement.assess import JUDGED_BY
from dry_gauge.core.quantities import UNITS, units_of
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.notebook.entries import BODY, Body


def _blank_as_none(value: object) -> object:
    return None if value == "" else value


class EntryForm(BaseModel):
    """One entry of any kind, as form fields; what a kind does not use stays empty."""

    # Not "id": a form field of that name hides the form element's own id from scripts.
    entry_id: UUID
    kind: str
    quantity: str = ""
    value: str = ""
    unit: str = ""
    what: str = ""
    state: str = ""
    text: str = ""
    event: str = ""
    mode: str = ""
    minutes_ago: str = ""
    voids: str = ""
    reason: str = ""
    fault: str = ""
    warning: str = ""
    basis: str = ""
    circuit: Annotated[int | None, BeforeValidator(_blank_as_none)] = None


_ALIASES = {
    "psi": "psig", "kpa": "kPag", "bar": "barg", "inhg": "inHg_vac", "°f": "F", "°c": "C", "amps": "A", "amp": "A",
    "in.w.c.": "inwc", "in.wc": "inwc", "inh2o": "inwc", "l/s": "L/s", "m3/h": "m3/h",
}  # fmt: skip
_TYPED = re.compile(r"([-+]?)\s*(\d+(?:[.,]\d+)*[.,]?|[.,]\d+)\s*([^\d\s].*)?")


def parse_number(text: str) -> tuple[float, str]:
    """A typed number, and the unit written behind it (or nothing).

    Raises
    ------
    Refused
        For nothing, for words, or where a comma could mean two things.
    """
    typed = text.strip().replace("−", "-").replace("–", "-")
    if not typed:
        raise Refused("Type a number. To take a value back, use 'void' under Done so far.", "value")
    match = _TYPED.fullmatch(typed)
    if not match:
        raise Refused(f"{_short(typed)!r} is not a number. Type digits, such as 72.5.", "value")
    sign, digits, unit = match[1], match[2], (match[3] or "").strip()
    if "," in digits:
        digits = _without_comma(digits)
    if digits.count(".") > 1:
        raise Refused(f"{_short(typed)!r} has more than one decimal point.", "value")
    return float(sign + digits), unit


def _without_comma(digits: str) -> str:
    whole, _, rest = digits.rpartition(",")
    if "." in digits or whole.count(",") or len(rest) == 3:
        plain = digits.replace(",", "")
        raise Refused(f"{digits!r} can be read two ways: write {plain} or use a decimal point.", "value")
    return f"{whole}.{rest}"


def _short(text: str) -> str:
    return text if len(text) <= 24 else text[:21] + "..."


def parse_unit(written: str, dimension: str) -> str:
    """The contract's name of a unit as people write it.

    Raises
    ------
    Refused
    """
    key = written.lower().replace(" ", "")
    names = {name.lower(): name for name in UNITS}
    name = names.get(key) or _ALIASES.get(key)
    if name is None or UNITS[name].dimension != dimension:
        raise unknown("unit here", written, units_of(dimension), "unit", show_all=True)
    return name


def body_of(form: EntryForm) -> Body:
    """The entry's body.

    Raises
    ------
    Refused
        With a sentence for beside the field.
    """
    fields: dict[str, object]
    match form.kind:
        case "reading":
            value, written = parse_number(form.value)
            unit = form.unit
            if written and form.quantity in QUANTITIES:
                unit = parse_unit(written, QUANTITIES[form.quantity].dimension)
            fields = {"quantity": form.quantity, "value": value, "unit": unit, "circuit": form.circuit}
        case "observation":
            fields = {"what": form.what, "state": form.state, "circuit": form.circuit}
        case "note":
            fields = {"text": form.text}
        case "clock":
            minutes, written = parse_number(form.minutes_ago)
            if written and written.lower().rstrip(".") not in ("m", "min", "minutes", "minute"):
                raise Refused("Type minutes, such as 18.", "minutes_ago")
            fields = {"event": form.event, "minutes_ago": minutes}
        case "mode":
            fields = {"mode": form.mode}
        case "override":
            fields = {"fault": form.fault, "reason": form.reason, "rule_set": JUDGED_BY}
        case "aside":
            fields = {"warning": form.warning, "basis": form.basis, "reason": form.reason}
        case "void":
            fields = {"voids": form.voids, "reason": form.reason}
        case _:
            raise Refused(f"{form.kind!r} is not a kind of entry.", "kind")
    try:
        return BODY.validate_python({"kind": form.kind, **fields})
    except ValidationError as error:
        raise Refused(_explained(error), str(error.errors()[0]["loc"][-1])) from None


def _explained(error: ValidationError) -> str:
    finding = error.errors(include_url=False)[0]
    match finding["loc"][-1], finding["type"]:
        case "reason", _:
            return "Say why in a few words: the reason goes on the record."
        case "fault", _:
            return "Choose what you find."
        case "text", "string_too_short":
            return "Write a few words first."
        case "minutes_ago", "less_than_equal":
            return "More than 30 days of running: type the minutes since the last start."
        case "minutes_ago", _:
            return "Minutes cannot be negative."
        case _:
            return f"{finding['msg']}."
