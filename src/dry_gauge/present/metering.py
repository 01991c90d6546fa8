"""What was read with a meter, beside the reading sheet: which meter is in hand, and what the judgement may take over."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from itertools import chain
from typing import Any

from dry_gauge.notebook.kind import Kept, VisitState, in_time
from dry_gauge.notebook.subjects.electrical import Electrical, MachineAmpsBody, PowerBody
from dry_gauge.notebook.subjects.moving_air import MovingAir
from dry_gauge.notebook.subjects.readings import Readings

WHOLE_UNIT = "whole unit"
_READ_AS = {"compressor": "compressor_amps", "blower": "blower_amps", "outdoor fan": "condenser_fan_amps"}
_NAMED = re.compile(r"(compressor|blower|outdoor fan)(?: ([1-9]))?")


def last_meter(state: VisitState) -> str:
    """The meter that was named last; empty where none was. What a probe showed live names none in the hand."""
    power = state[Electrical]
    read: Iterable[Kept[Any]] = chain(
        power.supplies.values(),
        power.amps.values(),
        power.capacitors.values(),
        power.powers.values(),
        [power.strips] if power.strips else [],
        state[MovingAir].belts.values(),
    )
    named = [one.body.instrument for one in in_time(read) if one.body.instrument and one.body.source == "typed"]
    return named[-1] if named else ""


def as_reading(one: Kept[MachineAmpsBody] | Kept[PowerBody], state: VisitState) -> Mapping[str, object]:
    """The fields of the reading that these amps or watts are, for the judgement; none where it has one as young.

    Of several legs the largest counts: that is what a plate limits.
    """
    body = one.body
    named = _NAMED.fullmatch(body.machine.strip().casefold())
    circuit = int(named[2] or 1) if named else 1
    if isinstance(body, PowerBody):
        quantity, value, unit = "input_power" if body.machine.strip().casefold() == WHOLE_UNIT else "", body.watts, "W"
    else:
        quantity, value, unit = _READ_AS[named[1]] if named else "", max(body.legs.values()), "A"
    known = state[Readings].shown(quantity, circuit) if quantity else None
    if not quantity or (known is not None and known.at >= one.at):
        return {}
    more = {"instrument": body.instrument} if body.instrument else {}
    return {"quantity": quantity, "value": f"{value:g}", "unit": unit, "source": body.source, "circuit": circuit, **more}
