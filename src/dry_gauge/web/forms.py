"""What a browser sends, before it is an entry: numbers as people type them, units as people write them."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from uuid import UUID

from fastapi import Request
from fastapi.exceptions import RequestValidationError
from pydantic import ValidationError
from pydantic_core import ErrorDetails

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import unknown
from dry_gauge.core.judgement.assess import JUDGED_BY
from dry_gauge.core.quantities import UNITS, units_of
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.notebook.entries import BODY
from dry_gauge.notebook.kind import Body
from dry_gauge.web import sealed_forms

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
        return int(number) if number.isdigit() and len(number) < 3 else None


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


# Kinds whose fields go straight into the entry; lists are those that may be ticked several times.
_PLAIN: Mapping[str, tuple[str, ...]] = {
    "observation": ("what", "state", "circuit"),
    "note": ("text",),
    "mode": ("mode",),
    "stage": ("commanded", "actual", "witness"),
    "condition": ("condition", "on"),
    "in_use": ("dimension", "instrument", "accuracy", "unit", "low", "high"),
    "aside": ("warning", "basis", "reason"),
    "complaint": ("sorts", "words", "since", "who_touched_it"),
    "claim": ("text",),
    "claim_check": ("claim", "true", "how"),
    "timer": ("what", "minutes", "thaw"),
    "timer_end": ("timer",),
    "action": ("sort", "words", "against", "part"),
    "failed_test": ("quantity", "circuit", "should"),
    "proof": ("failed_test", "passed", "how"),
    "temporary": ("sort", "where", "was", "belongs_to", "permission"),
    "restored": ("change", "how"),
    "trip": ("event", "switch", "cause"),
    "caution": ("code",),
    "lockout": ("disconnect", "locked"),
    "red_tag": ("danger", "told"),
    "follow_up": ("sort", "what", "due"),
    "follow_up_done": ("follow_up", "how"),
    "task": ("what",),
    "task_done": ("task",),
    "closing": ("outcome", "summary", "override"),
    "void": ("voids", "reason"),
    "explained": ("clash", "reason"),
}
_LISTS = frozenset({"sorts"})


def body_of(form: EntryForm) -> Body:
    """The entry's body.

    Raises
    ------
    Refused
        With a sentence for beside the field.
    """
    unstorable = next((name for name, values in form.fields.items() if any("\0" in value for value in values)), None)
    if unstorable is not None:
        raise Refused("This holds a character that cannot be kept (NUL). Type it again.", unstorable)
    fields: dict[str, object]
    match form.kind:
        case "reading":
            fields = _reading_fields(form)
        case "clock":
            minutes, written = parse_number(form.get("minutes_ago"))
            if written and written.lower().rstrip(".") not in ("m", "min", "minutes", "minute"):
                raise Refused("Type minutes, such as 18.", "minutes_ago")
            fields = {"event": form.get("event"), "minutes_ago": minutes}
        case "override":
            fields = {"fault": form.get("fault"), "reason": form.get("reason"), "rule_set": JUDGED_BY}
        case kind if kind in sealed_forms.READ:
            fields = {name: value for name, value in sealed_forms.READ[kind](form.get).items() if value != ""}
        case kind if kind in _PLAIN:
            sent = {name: form.fields[name] if name in _LISTS else form.get(name)
                    for name in _PLAIN[kind] if name in form.fields}  # fmt: skip
            fields = {name: value for name, value in sent.items() if value != "" or name in ("text", "reason")}
        case _:
            raise Refused(f"{form.kind!r} is not a kind of entry.", "kind")
    try:
        return BODY.validate_python({"kind": form.kind, **fields})
    except ValidationError as error:
        finding = error.errors(include_url=False)[0]
        field = next((str(step) for step in reversed(finding["loc"]) if isinstance(step, str)), "")
        raise Refused(_explained(field, finding), field) from None


def _reading_fields(form: EntryForm) -> dict[str, object]:
    value, written = parse_number(form.get("value"))
    quantity, unit = form.get("quantity"), form.get("unit")
    if written and quantity in QUANTITIES:
        unit = parse_unit(written, QUANTITIES[quantity].dimension)
    more = {name: form.get(name) for name in ("place", "instrument", "source") if form.get(name)}
    return {"quantity": quantity, "value": value, "unit": unit, "circuit": form.circuit, **more}


_WHAT_TO_DO = {
    "reason": "Say why in a few words: the reason goes on the record.",
    "fault": "Choose what you find.",
    "sort": "Choose what it is.",
    "where": "Say where it is, so that someone else finds it.",
    "should": "Say what it should be, such as 'below 38 °F in the box'.",
    "due": "Give a date.",
    "what": "Write what it is.",
    "switch": "Name the switch.",
    "danger": "Say what is dangerous.",
    "told": "Say who was told: the notice counts.",
    "disconnect": "Name the disconnect.",
    "outcome": "Choose how it ended.",
    "summary": "Say what was found, done and left, in a sentence or two.",
    "minutes": "Type minutes, such as 40.",
    "commanded": "Say which stage is called for.",
    "actual": "Say which stage really runs.",
    "instrument": "Name the instrument.",
    "repair": "Choose what it is opened for.",
    "cylinder": "Choose the cylinder: what is not weighed against one is not on the book.",
    "way": "Choose which way it goes.",
    "section": "Name the section that is held.",
    "micron": "Type microns between 1 and 1,000,000.",
    "grams": "Type an amount above nothing, below two tonnes.",
    "label_g": "Type the label's charge.",
    "target_micron": "A target between 50 and 5,000 microns.",
    "done_by": "Give the time as day and hour.",
    "cure": "Choose what was done.",
    "result": "Choose passed, failed or not reached.",
    "line_length_m": "A line set is between 0 and 300 m (1,000 ft) long.",
    "months": "Months from 1 to 240.",
    "limit": "Type the test pressure on the label, such as 450; leave it empty if it is not known.",
    "maker_g_per_m": "The maker's figure is between 0 and 2,000 g a metre (21 oz a foot).",
    "change_g": "A change is at most 50 kg (110 lb) either way.",
    "drier_g": "A drier holds at most 5 kg (11 lb).",
    "hose_g": "Hoses hold at most 5 kg (11 lb).",
    "line_included_m": "The label includes between 0 and 300 m (1,000 ft).",
    "value": "Type a number that a gauge can show.",
    "pressure": "Type a number that a gauge can show.",
    "temp": "Type a number that a thermometer can show.",
}


def _explained(field: str, finding: ErrorDetails) -> str:
    match field, finding["type"]:
        case _, "string_too_long":
            return f"That is too long: at most {finding['ctx']['max_length']} characters fit here."
        case "text", "string_too_short" | "missing":
            return "Write a few words first."
        case "minutes_ago", "less_than_equal":
            return "More than 30 days of running: type the minutes since the last start."
        case "minutes_ago", _:
            return "Minutes cannot be negative."
        case _:
            return _WHAT_TO_DO.get(field, f"{finding['msg']}.")
