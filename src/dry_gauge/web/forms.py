"""From what a form says to an entry's body, or to a sentence for beside the field."""

from __future__ import annotations

from pydantic import ValidationError
from pydantic_core import ErrorDetails

from dry_gauge.core.errors import Refused
from dry_gauge.notebook.entries import BODY
from dry_gauge.notebook.kind import KINDS, Body
from dry_gauge.web.stations import FORMS
from dry_gauge.web.typed import EntryForm


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
    read = FORMS.get(form.kind)
    if read is None:
        raise Refused(f"{form.kind!r} is not a kind of entry.", "kind")
    fields = {name: value for name, value in read(form).items() if value != "" or name in _SENT_BLANK}
    if form.get("circuit") and "circuit" in KINDS[form.kind].body.model_fields:
        fields["circuit"] = form.get("circuit")
    try:
        return BODY.validate_python({"kind": form.kind, **fields})
    except ValidationError as error:
        finding = error.errors(include_url=False)[0]
        field = next((str(step) for step in reversed(finding["loc"]) if isinstance(step, str)), "")
        raise Refused(_explained(field, finding), field) from None


_SENT_BLANK = frozenset({"text", "reason"})
_WHAT_TO_DO = {
    "who": "Choose who stands by.",
    "reason": "Say why in a few words: the reason goes on the record.",
    "fault": "Choose what you find.",
    "sort": "Choose what it is.",
    "where": "Say where it is, so that someone else finds it.",
    "should": "Say what it should be, such as 'below 38 °F (3 °C) in the box'.",
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
    "grams": "Type an amount above nothing, below 2,000 kg.",
    "label_g": "Type the label's charge.",
    "target_micron": "A target between 50 and 5,000 microns.",
    "done_by": "Give the time as day and hour.",
    "cure": "Choose what was done.",
    "result": "Choose passed, failed or not reached.",
    "line_length_m": "A line set is between 0 and 300 m (1,000 ft) long.",
    "months": "Months from 1 to 240.",
    "limit": "Type the test pressure on the label, such as 450; leave it empty if it is not known.",
    "maker_g_per_m": "The maker's figure is between 0 and 2,000 g a meter (21 oz a foot).",
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
