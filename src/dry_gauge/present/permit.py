"""Whether the compressor may start now, by what the visit knows."""

from __future__ import annotations

from datetime import datetime

from dry_gauge.core.judgement.stops import fan_held_by_control
from dry_gauge.core.visit.run_permit import RunPermit, run_permit
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.opening import is_open, is_pumped_down
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.present.visit import VisitView


def permit_of(view: VisitView, now: datetime) -> RunPermit:
    """Whether the compressor may start, and where it is stopped."""
    ledger, circuits = view.state[Ledger], list(view.assessment.circuits.values()) if view.assessment else []
    return run_permit(
        view.facts,
        view.state[Observations].states(),
        [sort.value for sort in ledger.lifted_sorts],
        ledger.locked,
        [(now - start).total_seconds() / 60 for start in view.state[Running].starts],
        is_open(view.state),
        [stop for circuit in circuits for stop in circuit.stops],
        any(fan_held_by_control(circuit.view, circuit.derived) for circuit in circuits),
        is_pumped_down(view.state),
        [tag.body.danger for tag in ledger.red_tags.values()],
    )
