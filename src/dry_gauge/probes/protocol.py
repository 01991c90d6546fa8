"""The hub protocol: what a hub of probes sends, line by line, and what it is answered. See docs/probes.md.

A hub numbers its samples from 1 without a gap. The server acknowledges the last number up to which it has them all; the
hub sends again from there. So nothing is counted twice, and nothing is lost but what the hub itself says it lost.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from dry_gauge.core.dimensions import UNITS
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import make_reading
from dry_gauge.core.probes import TOOLS, ProbeState, Sample
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES

MOST_LINES = 5000
MOST_NUMBER = 2**62
_NO_CONTROLS = r"^[^\x00-\x1f]*$"  # no database keeps a NUL
# A step of a hub's clock beyond this, or backwards, is a clock that was set and no time that passed. [s]
_LONGEST_STEP = 2 * 86_400


class Line(BaseModel):
    """One line of the stream."""

    model_config = ConfigDict(extra="forbid", strict=True)
    n: Annotated[int, Field(ge=1, le=MOST_NUMBER)]
    lost_through: Annotated[int, Field(ge=1, le=MOST_NUMBER)] | None = None
    """Instead of a sample: the hub no longer has the samples up to here."""
    t: Annotated[float, Field(allow_inf_nan=False, ge=-1e12, le=1e12)] = 0.0
    """Seconds on the hub's own clock, whatever that shows; only differences are used."""
    probe: Annotated[str, Field(min_length=1, max_length=40, pattern=_NO_CONTROLS)] = "-"
    quantity: Annotated[str, Field(max_length=60, pattern=_NO_CONTROLS)] = ""
    circuit: Annotated[int, Field(ge=1, le=8)] = 1
    value: Annotated[float, Field(allow_inf_nan=False)] | None = None
    unit: Annotated[str, Field(max_length=12, pattern=_NO_CONTROLS)] = ""
    state: Annotated[str, Field(max_length=20)] = "ok"
    battery: Annotated[float, Field(ge=0, le=1)] | None = None


@dataclass(slots=True)
class Batch:
    """What a body of lines amounts to after the last acknowledged number."""

    acknowledged: int
    samples: list[Sample] = field(default_factory=list)
    refused: list[dict[str, Any]] = field(default_factory=list)
    repeated: int = 0
    gap: bool = False


def read_lines(body: bytes, acknowledged: int, facts: UnitFacts) -> Batch:
    """The samples that follow the acknowledged one without a gap, in order.

    Lines may come twice or in any order. What cannot be read is named in `refused` and holds nothing up; a sample whose
    number is known but whose content makes no sense is refused and counted, else the hub would send it for ever.

    Parameters
    ----------
    body : bytes
        JSON lines, UTF-8.
    acknowledged : int
        The last number that the server has, 0 at first.
    """
    batch = Batch(acknowledged)
    lines: dict[int, Line] = {}
    for i, text in enumerate(body.split(b"\n"), 1):
        if not text.strip():
            continue
        if i > MOST_LINES:
            batch.refused.append({"line": i, "error": f"More than {MOST_LINES} lines at once; send the rest next."})
            break
        try:
            line = Line.model_validate_json(text)
        except ValidationError as error:
            _refuse_unreadable(batch, lines, i, text, error)
            continue
        if line.n <= acknowledged and not (line.lost_through and line.lost_through > acknowledged):
            batch.repeated += 1
            continue
        lines.setdefault(line.n, line)
    _follow(batch, lines, facts)
    return batch


def _refuse_unreadable(batch: Batch, lines: dict[int, Line], i: int, text: bytes, error: ValidationError) -> None:
    batch.refused.append({"line": i, "error": error.errors(include_url=False)[0]["msg"]})
    try:
        known = json.loads(text)
        number = known["n"] if isinstance(known, dict) else None
    except (ValueError, KeyError, RecursionError):
        return
    if isinstance(number, int) and not isinstance(number, bool) and 1 <= number <= MOST_NUMBER:
        lines.setdefault(number, Line(n=number, state="refused"))


def _follow(batch: Batch, lines: dict[int, Line], facts: UnitFacts) -> None:
    """Take lines in the order of their numbers for as long as none is missing."""
    for number in sorted(lines):
        line = lines[number]
        if line.lost_through is not None:
            batch.acknowledged = max(batch.acknowledged, line.lost_through)
            continue
        if number <= batch.acknowledged:
            batch.repeated += 1
            continue
        if number > batch.acknowledged + 1:
            batch.gap = True
            return
        batch.acknowledged = number
        if line.state == "refused":
            continue
        try:
            batch.samples.append(sample_of(line, facts))
        except Refused as refusal:
            batch.refused.append({"n": number, "error": refusal.message})


def sample_of(line: Line, facts: UnitFacts) -> Sample:
    """One line in SI.

    Raises
    ------
    Refused
        For an unknown quantity, a unit that does not fit it, or a value that no instrument of the trade shows.
    """
    state = ProbeState(line.state) if line.state in ProbeState.__members__.values() else ProbeState.OFF
    value = line.value if state in (ProbeState.OK, ProbeState.WEAK) else None
    value_si = None
    tool = TOOLS.get(line.quantity)
    if tool is not None:
        if line.unit not in tool.units:
            raise Refused(f"{line.unit!r} is no unit of the {tool.label.lower()}: {', '.join(tool.units)}.", "unit")
        value_si = None if value is None else value * tool.units[line.unit]
        if value_si is not None and not tool.least_si <= value_si <= tool.most_si:
            raise Refused(f"No {tool.label.lower()} of the trade shows that.", "value")
    elif line.quantity not in QUANTITIES:
        raise Refused(f"{line.quantity!r} is no quantity.", "quantity")
    elif value is not None:
        value_si = make_reading(facts, line.quantity, value, line.unit).value_si
    elif line.unit and line.unit not in UNITS:
        raise Refused(f"{line.unit!r} is no unit.", "unit")
    return Sample(line.n, line.t, line.probe, line.quantity, line.circuit, value_si, value, line.unit, state, line.battery)


def seconds_ago(samples: Iterable[Sample]) -> list[float]:
    """How many seconds before the newest each sample was taken, by the hub's own clock against itself.

    A hub whose clock is wrong by hours, or that sends what it kept during an outage, still places its samples right. Where
    its clock was set within a batch, no time passed between the two samples.
    """
    listed = list(samples)
    ago = [0.0] * len(listed)
    for i in range(len(listed) - 2, -1, -1):
        step = listed[i + 1].t - listed[i].t
        ago[i] = min(ago[i + 1] + (step if 0 <= step <= _LONGEST_STEP else 0.0), _LONGEST_STEP)
    return ago
