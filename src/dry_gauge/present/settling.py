"""Whether the unit has settled, from what was read more than once on this visit, and from live samples if there are any."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import datetime

from dry_gauge.core.judgement.gates import read_again_words
from dry_gauge.core.judgement.settled import drifts_in
from dry_gauge.core.settling import Clocks, Series, Settling, drifts_of, settled
from dry_gauge.notebook.kind import VisitState
from dry_gauge.notebook.sheets import minutes_between
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.opening import is_open, is_pumped_down
from dry_gauge.notebook.subjects.running import ClockEvent, Running
from dry_gauge.present.visit import VisitView


def _why_off(visit: VisitState) -> str:
    """Why it cannot be running; nothing settles until it does."""
    if visit[Ledger].locked or visit[Ledger].red_tags:
        return f"{'Locked out' if visit[Ledger].locked else 'Red-tagged'}: nothing settles until it runs."
    if is_open(visit):
        return "Open, under nitrogen or in a vacuum: nothing settles until it runs."
    return "Pumped down: nothing settles until it runs again." if is_pumped_down(visit) else ""


def settling_of(
    view: VisitView, circuit: int = 1, live: Mapping[str, Series] | None = None, now: datetime | None = None
) -> Settling:
    """The answer for a circuit as it stands.

    Parameters
    ----------
    live : mapping of str to Series or None
        Samples of live probes by quantity, used in place of typed readings.
    now : datetime or None
        While probes are live the clock runs on; else it stands at the latest reading.
    """
    visit, facts = view.state, view.facts.of_circuit(circuit)
    off = _why_off(visit)
    if off:
        return Settling(False, None, (), off, off=True)
    judged = view.assessment.circuits.get(circuit) if view.assessment else None
    drifts = drifts_in(judged.view, live) if judged else drifts_of(live or {}, facts)
    running = visit[Running].as_read_at(now, runs=True) if now else visit[Running]
    started, changed, charged, defrosted = (minutes_between(running.since(event), running.read_at) for event in ClockEvent)
    found = settled(drifts, Clocks(started, changed, charged, defrosted, facts.heating))
    again = {name: when for name, when in view.outdated(circuit).items() if name not in (live or ())}
    return Settling(False, None, found.drifts, read_again_words(again)) if found.ready and again else found
