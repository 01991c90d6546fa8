"""What a visit's page shows besides, while its unit is a made-up one: what can be done on it, and what the last step showed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from time import monotonic, sleep
from typing import Any
from uuid import UUID

from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.bench.practice import game
from dry_gauge.core.errors import Refused
from dry_gauge.drawing.sight import lamp_svg, sight_svg
from dry_gauge.present.practice import Hand, hand_of
from dry_gauge.service import practice
from dry_gauge.store.database import see_shop
from dry_gauge.store.people import Someone, at_home
from dry_gauge.web.render import reader_of

_BEAT_SECONDS = 0.3


@contextmanager
def in_step() -> Iterator[None]:
    """Answers take whole beats: how long it took to work the unit out says nothing of what is wrong with it."""
    began = monotonic()
    yield
    to_the_beat(began)


def to_the_beat(began: float) -> None:
    """Wait until whole beats are over since that moment."""
    sleep(-(monotonic() - began) % _BEAT_SECONDS)


def hand_values(connection: Connection, someone: Someone, visit_id: UUID, station: str, error: str = "") -> Mapping[str, Any]:
    """What can be done on the unit from a station; nothing where that visit is not the one that is played."""
    if someone.practice is None or someone.practice.visit_id != visit_id:
        return {}
    try:
        _, call, worker = practice.play_of(connection, at_home(connection, someone), someone.practice.game_id)
    except Refused as other_version:
        return {"hand": None, "hand_error": other_version.message}
    finally:
        see_shop(connection, someone.shop_id)
    hand = hand_of(call, worker, station, someone.practice.help, reader_of(someone, call.facts))
    return {"hand": hand, "hand_error": error, "JUDGE": game.JUDGE, "seen_drawn": _drawn(hand)}


def _drawn(hand: Hand) -> list[Markup]:
    """What the last step looked at, drawn."""
    seen = hand.last.seen if hand.last else ()
    pictures = (sight_svg(what, state == "yes", f"sight-{what}") for what, state in seen if state in ("yes", "no"))
    flashes = hand.last.flashes_s if hand.last else ()
    lamp = lamp_svg(flashes, "sight-lamp") if flashes else ""
    return [Markup(one) for one in (*pictures, lamp) if one]  # noqa: S704  (our own)
