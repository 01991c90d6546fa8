"""What was done to people, rights, cards and settings, and who tried to come in: added to, never changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.store import audit as store
from dry_gauge.store.people import Someone

WORDS = {
    "sign_in": "signed in",
    "sign_in_wrong": "wrong password or code",
    "sign_in_stopped": "stopped: too many tries",
    "recovery_code_used": "signed in with a recovery code",
    "password_reset": "was given a new password",
    "password_changed": "changed their own password",
    "second_step_on": "set up a second step",
    "second_step_off": "took their second step away",
    "sessions_ended": "signed other devices out",
    "person_added": "added a person",
    "person_changed": "changed a person",
    "second_step_ended": "took somebody's second step away",
    "tries_forgiven": "let somebody try again",
    "site_added": "registered a site",
    "site_changed": "changed a site",
    "card_added": "registered a unit",
    "card_changed": "changed a unit card",
    "part_put_in": "put a part on record",
    "part_taken_out": "took a part off the record of what is in",
    "sound_day_marked": "said of a unit's day",
    "settings_changed": "changed the shop's settings",
    "cylinder_changed": "changed a cylinder",
    "probe_token_made": "made a token for probes",
    "probe_token_ended": "ended a token for probes",
    "call_moved": "moved a call",
    "call_off": "called a call off",
    "options_offered": "offered options to an owner",
    "decision_taken": "recorded an owner's decision",
    "prices_changed": "changed the price list",
    "codes_changed": "changed the tables of board codes",
    "units_from_table": "imported units from a table",
    "archive_made": "exported everything",
    "archive_taken": "imported an archive",
    "owner_link_made": "made a link for an owner",
    "owner_link_withdrawn": "withdrew an owner's link",
    "beyond_limit": "did alone what a helper does not",
}
SHOWN = 200
SUBJECTS: Mapping[str, tuple[str, frozenset[str]]] = {
    "people": ("People and rights", frozenset({
        "password_reset", "second_step_on", "second_step_off", "person_added", "person_changed", "second_step_ended",
        "tries_forgiven", "sessions_ended", "password_changed",
    })),
    "helpers": ("Helpers beyond their limits", frozenset({"beyond_limit"})),
    "entry": ("Coming in", frozenset({"sign_in", "sign_in_wrong", "sign_in_stopped", "recovery_code_used"})),
    "cards": ("Cards and parts", frozenset({
        "site_added", "site_changed", "card_added", "card_changed",
        "part_put_in", "part_taken_out", "sound_day_marked", "units_from_table", "codes_changed",
    })),
    "settings": ("Settings and probes", frozenset({"settings_changed", "probe_token_made", "probe_token_ended"})),
    "cylinders": ("Cylinders", frozenset({"cylinder_changed"})),
    "prices": ("Prices and options", frozenset({"prices_changed", "options_offered", "decision_taken"})),
    "calls": ("Calls", frozenset({"call_moved", "call_off"})),
    "files": ("Out and in", frozenset({"archive_made", "archive_taken", "owner_link_made", "owner_link_withdrawn"})),
}  # fmt: skip
"""What the trail can be narrowed to; a test holds that each sort of line is in one."""


@dataclass(frozen=True, slots=True)
class Event:
    """One line of the trail."""

    at: datetime
    who: str
    words: str
    about: str
    address: str
    grave: bool


_GRAVE = frozenset({"sign_in_stopped", "recovery_code_used", "second_step_ended", "second_step_off"})


def note(connection: Connection, someone: Someone, what: str, about: str = "") -> None:
    """Somebody did something. In the same transaction: what was done and what says so stand or fall together."""
    assert what in WORDS, what
    store.add(connection, someone.shop_id, someone.person_id, what, about[:300])


@dataclass(frozen=True, slots=True)
class Asked:
    """What of the trail is wanted; empty means all."""

    subject: str = ""
    person_id: UUID | None = None
    text: str = ""
    before: datetime | None = None


def trail(connection: Connection, asked: Asked = Asked(), most: int = SHOWN) -> Sequence[Event]:
    """The newest lines of the shop that this transaction sees."""
    whats = SUBJECTS[asked.subject][1] if asked.subject in SUBJECTS else ()
    listed = store.latest(connection, most, whats=whats, person_id=asked.person_id, text=asked.text, before=asked.before)
    return [
        Event(row.at, row.name or "somebody", WORDS.get(row.what, row.what), row.about, row.address, row.what in _GRAVE)
        for row in listed
    ]
