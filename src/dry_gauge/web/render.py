"""Templates: pages and fragments, and the words that every one of them may use."""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from datetime import datetime, timedelta
from functools import lru_cache
from pathlib import Path
from time import time_ns
from typing import Any
from uuid import UUID

import uuid6
from fastapi import Request
from fastapi.responses import HTMLResponse
from jinja2 import Environment, FileSystemLoader, StrictUndefined
from jinja2.ext import Extension
from jinja2.lexer import Token, TokenStream
from markupsafe import Markup

from dry_gauge.core.air.static_profile import StaticProfile
from dry_gauge.core.controls.defrost import Mark
from dry_gauge.core.dimensions import UNITS, as_typed, unit_for
from dry_gauge.core.judgement.faults import FAULT_WORDS, fault_words
from dry_gauge.core.judgement.gates import GATE_WORDS
from dry_gauge.core.local_time import clock, day_of, local
from dry_gauge.core.quantities import POUND_KG, STANDARD_ATMOSPHERE_PA
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.visit.complaints import TRIAGE
from dry_gauge.core.vocabulary import COMPRESSOR_WORDS, KIND_WORDS, METERING_WORDS
from dry_gauge.core.words import Reader, counted, in_percent
from dry_gauge.drawing.air_path import path_svg
from dry_gauge.drawing.cleaned import cleaned_svg
from dry_gauge.drawing.defrost_line import defrost_svg
from dry_gauge.notebook.subjects.actions import ACTION_WORDS
from dry_gauge.notebook.subjects.closing import OUTCOME_WORDS
from dry_gauge.notebook.subjects.ledger import CHANGE_WORDS
from dry_gauge.notebook.subjects.movements import MOVEMENT_WORDS
from dry_gauge.notebook.subjects.running import CONDITION_ENDS
from dry_gauge.present.cleaning import ReadTwice
from dry_gauge.present.headline import odds
from dry_gauge.present.hints import HINTS
from dry_gauge.present.judge import ASKED_AT, REMEDIED_AT
from dry_gauge.present.proving import MET_AT
from dry_gauge.present.vacuum import verdict_words
from dry_gauge.service.today import today_here
from dry_gauge.store.people import Someone
from dry_gauge.web.styles import STYLE_SHEET, style_sheet

_HERE = Path(__file__).parent
Fragment = tuple[str, Mapping[str, Any]]
"""A template's name and what it shows."""
STATIC = _HERE / "static"


@lru_cache(maxsize=64)
def static_url(name: str) -> str:
    """Address of a static file with its fingerprint, so that it may be kept for ever."""
    if name.startswith("scripts/"):
        return f"/static/scripts/{scripts_digest()}/{name.removeprefix('scripts/')}"
    content = style_sheet().encode() if name == STYLE_SHEET else (STATIC / name).read_bytes()
    digest = hashlib.sha256(content).hexdigest()[:10]
    return f"/static/{name}?v={digest}"


@lru_cache(maxsize=1)
def scripts_digest() -> str:
    """Fingerprint of all script modules together: they name each other without one, so it stands in their path."""
    texts = [one.name.encode() + one.read_bytes() for one in sorted((STATIC / "scripts").glob("*.js"))]
    return hashlib.sha256(b"".join(texts)).hexdigest()[:10]


def air_path(profile: StaticProfile, points_pa: Mapping[str, float], reader: Reader) -> Markup:
    """The static along the air, drawn."""
    return Markup(path_svg(profile, points_pa, reader, "air-path"))  # noqa: S704  (our own drawing, escaped where it is made)


def cleaned(rows: Sequence[ReadTwice], ident: str) -> Markup:
    """A coil's readings before and after its cleaning, drawn."""
    return Markup(cleaned_svg(rows, ident))  # noqa: S704  (our own drawing, escaped where it is made)


def defrost_line(marks: Sequence[tuple[Mark, float]]) -> Markup:
    """A defrost along its minutes, drawn."""
    return Markup(defrost_svg(marks, "defrost"))  # noqa: S704  (our own drawing, escaped where it is made)


def visit_url(visit_id: UUID, station: str, circuit: int = 1) -> str:
    """A station of a visit; which circuit it shows goes along."""
    return f"/visits/{visit_id}?at={station}" + (f"&circuit={circuit}" if circuit > 1 else "")


def _now_ms(someone: Someone | None) -> int:
    return round(someone.now().timestamp() * 1000) if someone else time_ns() // 1_000_000


def _when(moment: datetime) -> str:
    """Hour and minute, and before today the day as well."""
    here = local(moment)
    return clock(here) if here.date() == today_here() else f"{here:%a} {here.day}, {clock(here)}"


def _day(moment: datetime) -> str:
    return f"{moment:%a} {moment.day} {moment:%b %Y}"


_WORDS: Mapping[str, object] = {
    "FAULTS": FAULT_WORDS,
    "fault_words": fault_words,
    "GATES": GATE_WORDS,
    "CHANGE_WORDS": CHANGE_WORDS,
    "ACTION_WORDS": ACTION_WORDS,
    "OUTCOME_WORDS": {outcome.value: words for outcome, words in OUTCOME_WORDS.items()},
    "KIND_WORDS": KIND_WORDS,
    "METERING_WORDS": METERING_WORDS,
    "COMPRESSOR_WORDS": COMPRESSOR_WORDS,
    "MOVEMENT_WORDS": MOVEMENT_WORDS,
    "CONDITION_ENDS": CONDITION_ENDS,
    "HINTS": HINTS,
    "MET_AT": MET_AT,
    "REMEDIED_AT": REMEDIED_AT,
    "ASKED_AT": ASKED_AT,
    "UNITS": UNITS,
    "POUND_KG": POUND_KG,
    "outcomes_offered": [(outcome.value, words) for outcome, words in OUTCOME_WORDS.items()],
    "sorts_offered": [(sort.value, row.label) for sort, row in TRIAGE.items()],
}
# What only an answer to a sent entry sets: partials also stand in whole pages.
_UNANSWERED: Mapping[str, object] = {
    "oob": False,
    "said_oob": False,
    "follows": False,
    "error": "",
    "at": None,
    "repeated": False,
    "text": "",
    "under_condition": False,
    "front_door": False,
    "hand": None,
    "hand_error": "",
    "choices": (),
}
_CALLED: Mapping[str, Callable[..., object]] = {
    "static": static_url,
    "new_id": uuid6.uuid7,
    "now_ms": _now_ms,
    "visit_url": visit_url,
    "verdict_words": verdict_words,
    "unit_for": unit_for,
    "as_typed": as_typed,
    "air_path": air_path,
    "defrost_line": defrost_line,
    "cleaned": cleaned,
}
_FILTERS: Mapping[str, Callable[..., object]] = {
    # Pairs of value and words, for what a form offers.
    "enum_pair": lambda pair: (pair[0].value, pair[1]),
    "way_pair": lambda way: (way.value, MOVEMENT_WORDS[way]),
    "inches": lambda size: (size, f"{size} in."),
    "end_pair": lambda end: (end.name, end.words),
    "pair": lambda value: (value, value.replace("_", " ")),
    "same": lambda value: (value, value),
    # Moments and days, where this shop is.
    "clock": clock,
    "when": _when,
    "when_fully": lambda moment: f"{local(moment):%Y-%m-%d %H:%M:%S}",
    "typed_hour": lambda moment: f"{local(moment):%H:%M}",  # what a field takes, however its reader likes hours said
    "due_at": lambda timer: timer.at + timedelta(minutes=timer.body.minutes),
    "due": lambda day: f"{day:%a} {day.day} {day:%b %Y}",
    "day": lambda moment: _day(local(moment)),
    "day_of": day_of,
    # Numbers.
    "odds": odds,
    "in_percent": in_percent,
    "counted": counted,
}


class _Unindented(Extension):
    """Lines and indentation are for whoever reads a template: pages go out with one blank for them."""

    def filter_stream(self, stream: TokenStream) -> Iterator[Token]:
        for token in stream:
            yield Token(token.lineno, token.type, _INDENTED.sub(" ", token.value)) if token.type == "data" else token


_INDENTED = re.compile(r"\s*\n\s*|^ {2,}")  # behind a tag of Jinja its line break is gone already


def _environment() -> Environment:
    environment = Environment(
        extensions=[_Unindented],
        loader=FileSystemLoader([_HERE / "templates", _HERE]),  # stations keep theirs in their folders
        autoescape=True,
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
        auto_reload=bool(os.environ.get("DRY_GAUGE_RELOAD")),
    )
    environment.globals |= {**_WORDS, **_UNANSWERED, **_CALLED}
    environment.filters |= _FILTERS
    return environment


TEMPLATES = _environment()


def page(request: Request, name: str, *, status: int = 200, someone: Someone | None = None, **values: Any) -> HTMLResponse:
    """A whole page."""
    text = TEMPLATES.get_template(name).render(
        me=someone,
        csrf=request.scope["csrftoken"](),
        path=request.url.path + (f"?{request.url.query}" if request.url.query and request.method == "GET" else ""),
        reader=reader_of(someone),
        **values,
    )
    # For the service worker: pages are kept apart by person.
    return HTMLResponse(text, status, {"x-person": str(someone.person_id)} if someone else None)


def fragments(request: Request, *parts: Fragment, status: int = 200) -> HTMLResponse:
    """Changed fragments only; each lands where its id stands."""
    return HTMLResponse(fragments_text(request, *parts), status)


def fragments_text(request: Request, *parts: Fragment) -> str:
    """The text of changed fragments."""
    csrf = request.scope["csrftoken"]()
    return "".join(TEMPLATES.get_template(name).render({"oob": True, "csrf": csrf, **values}) for name, values in parts)


_OF_ONE_PAGE = re.compile(r'name="(csrftoken|entry_id)" value="[^"]*"')


def for_another_page(request: Request, text: str) -> str:
    """Fragments that were drawn for somebody else's page: forms with this one's token, and entries with ids of their own."""
    csrf = request.scope["csrftoken"]()
    return _OF_ONE_PAGE.sub(lambda found: f'name="{found[1]}" value="{csrf if found[1] == "csrftoken" else uuid6.uuid7()}"', text)


def wants_fragments(request: Request) -> bool:
    """Whether htmx asks (and not a plain form)."""
    return request.headers.get("hx-request") == "true"


def reader_of(someone: Someone | None, facts: UnitFacts | None = None) -> Reader:
    """How this person reads numbers, where this unit stands."""
    if someone is None:
        return Reader()
    barometer = STANDARD_ATMOSPHERE_PA if facts is None else facts.atmosphere_pa
    return Reader(someone.temperature_unit, someone.pressure_unit, barometer, someone.weight_unit, someone.clock)
