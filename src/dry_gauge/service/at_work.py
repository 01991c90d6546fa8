"""What a visit says of pump and pour, for hubs that simulate them: the shipped ones follow the technician's taps."""

from __future__ import annotations

from dry_gauge.notebook.kind import VisitState
from dry_gauge.notebook.subjects.movements import OUT_OF_UNIT, Charge
from dry_gauge.notebook.subjects.vacuum import Vacuum, VacuumEvent


def at_work(visit: VisitState) -> dict[str, str]:
    """Pump ``off``, ``open``, ``shut`` or ``swept``; pour ``in``, ``out`` or nothing. Kept in the visit's row."""
    pump, on, pour = "off", visit[Vacuum].on, visit[Charge].pouring
    if on is not None and on.state is not None:
        pump = {VacuumEvent.ISOLATED: "shut", VacuumEvent.SWEPT: "swept"}.get(on.state, "open")
    return {"pump": pump, "pour": "" if pour is None else "out" if pour.body.way in OUT_OF_UNIT else "in"}
