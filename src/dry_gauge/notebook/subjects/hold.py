"""Pressure holds: each section under nitrogen, its gauge and thermometer, and what the arithmetic makes of them.

Pressures stay in the unit in which they were typed.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal, Self
from uuid import UUID

from pydantic import Field

from dry_gauge.core.dimensions import UNITS, as_typed
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import most_gauge_pa
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.sealed.pressure_hold import ALLOWED_PA_H, HoldReading, HoldVerdict, judge_hold
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import QUANTITIES, default_half_width_si
from dry_gauge.notebook.fields import Circuit, FewWords, SomeWords, of_circuit
from dry_gauge.notebook.kind import (
    LEAST_REASON,
    Answered,
    Body,
    Case,
    Entry,
    Kept,
    Kind,
    Obstacle,
    Part,
    VisitState,
    kept,
    still_on,
    with_one,
)
from dry_gauge.notebook.subjects.agenda import RETURNS, Agenda

_CLAMP_HALF_K = 1.5 * FAHRENHEIT_K
_Finite = Annotated[float, Field(allow_inf_nan=False)]
_Accuracy = Annotated[float, Field(allow_inf_nan=False, ge=0)]


class HoldBody(Body):
    """A pressure hold of one section begins. `limit` is the label's test pressure for its weaker part, gauge."""

    kind: Literal["hold"] = "hold"
    section: SomeWords
    limit: Annotated[float, Field(allow_inf_nan=False, gt=0)] | None = None
    unit: FewWords = "psig"
    gas: Literal["nitrogen", "other"] = "nitrogen"
    vacuum_gauge_off: bool = False
    circuit: Circuit | None = None


class HoldReadingBody(Body):
    """Gauge and thermometer of one section; `stage` readings are on the way up and do not count as the hold."""

    kind: Literal["hold_reading"] = "hold_reading"
    hold: UUID
    pressure: _Finite
    pressure_unit: FewWords
    temp: _Finite
    temp_unit: FewWords
    gauge: FewWords = ""
    pressure_accuracy: _Accuracy | None = None
    thermometer: FewWords = ""
    temp_accuracy: _Accuracy | None = None
    stage: bool = False
    source: Literal["typed", "probe"] = "typed"


class HoldEndBody(Body):
    """The hold is over. The verdict is the arithmetic's; someone's own needs a reason."""

    kind: Literal["hold_end"] = "hold_end"
    hold: UUID
    verdict: Literal["tight", "leaking", "too_soon", "gain"]
    reason: FewWords = ""


class KeptHold(Answered[HoldBody]):
    """A hold and its readings."""

    readings: tuple[Kept[HoldReadingBody], ...] = ()
    verdict: str = ""


class Holds(Part):
    """By the entry's id."""

    holds: dict[str, KeptHold] = {}

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that were held."""
        return frozenset(one.body.circuit or 1 for one in self.holds.values())

    def of_circuit(self, number: int) -> Self:
        """The holds of one circuit."""
        return self.model_copy(
            update={"holds": {key: one for key, one in self.holds.items() if (one.body.circuit or 1) == number}}
        )

    @property
    def in_order(self) -> tuple[tuple[str, KeptHold], ...]:
        """By the moment at which each began."""
        return tuple(sorted(self.holds.items(), key=lambda pair: (pair[1].at, pair[0])))

    @property
    def on(self) -> tuple[KeptHold, ...]:
        """Holds that are on."""
        return tuple(one for _, one in self.in_order if one.open)


@dataclass(frozen=True, slots=True)
class HoldView:
    """A hold with its verdict; None before its first counted reading."""

    key: str
    kept: KeptHold
    verdict: HoldVerdict | None
    over_limit: bool


def _hold_reading(one: Kept[HoldReadingBody], start: datetime, facts: UnitFacts) -> HoldReading:
    body = one.body
    pressure = UNITS[body.pressure_unit]
    pressure_pa = pressure.to_si(body.pressure, facts.atmosphere_pa)
    half_pa = default_half_width_si(QUANTITIES["standing_pressure"], pressure_pa, facts.atmosphere_pa)
    if body.pressure_accuracy is not None:
        half_pa = body.pressure_accuracy * pressure.scale
    temperature = UNITS[body.temp_unit]
    half_k = _CLAMP_HALF_K if body.temp_accuracy is None else body.temp_accuracy * temperature.scale
    return HoldReading(
        (one.at - start).total_seconds(),
        pressure_pa,
        temperature.to_si(body.temp),
        half_pa,
        half_k,
        body.gauge,
        body.thermometer,
        _step(body.pressure) * pressure.scale,
    )


def _step(shown: float) -> float:
    """Smallest step of a gauge that shows that number: its last decimal."""
    decimals = f"{shown:.6g}".partition(".")[2]
    return float(10 ** -len(decimals))


def hold_of(key: str, hold: KeptHold, facts: UnitFacts, allowed_pa_h: float = ALLOWED_PA_H) -> HoldView:
    """One hold as it stands; readings on the way up do not count."""
    counted = [one for one in hold.readings if not one.body.stage]
    over = False
    if hold.body.limit is not None:
        limit_pa = UNITS[hold.body.unit].to_si(hold.body.limit, facts.atmosphere_pa)
        over = any(
            UNITS[one.body.pressure_unit].to_si(one.body.pressure, facts.atmosphere_pa) > limit_pa * 1.005
            for one in hold.readings[-1:]
        )
    if not counted:
        return HoldView(key, hold, None, over)
    listed = [_hold_reading(one, hold.at, facts) for one in counted]  # from filling on
    return HoldView(key, hold, judge_hold(listed, allowed_pa_h), over)


def _begun(visit: VisitState, entry: Entry, _: HoldBody) -> VisitState:
    return visit.changing(Holds, holds=visit[Holds].holds | {str(entry.id): KeptHold(**kept(entry))})


def _read(visit: VisitState, entry: Entry, body: HoldReadingBody) -> VisitState:
    hold = visit[Holds].holds.get(str(body.hold))
    if hold is None or not hold.open:
        return visit
    readings = (*hold.readings, Kept[HoldReadingBody](**kept(entry)))
    return visit.changing(Holds, holds=with_one(visit[Holds].holds, body.hold, readings=readings))


def _ended(visit: VisitState, entry: Entry, body: HoldEndBody) -> VisitState:
    holds = with_one(
        visit[Holds].holds,
        body.hold,
        answered_at=entry.written_at,
        good=body.verdict == "tight",
        how=body.reason,
        verdict=body.verdict,
    )
    return visit.changing(Holds, holds=holds)


def _hold_cannot_be(case: Case[HoldBody]) -> None:
    body = case.body
    if body.gas != "nitrogen":
        raise Refused(
            "Only dry nitrogen, through a regulator with relief. Oxygen or compressed air with oil explodes; "
            "refrigerant does not follow the arithmetic.",
            "gas",
        )
    if not body.vacuum_gauge_off:
        raise Refused(
            "Take the vacuum gauge off, or valve it off, first: pressure destroys it. Then tick it.", "vacuum_gauge_off"
        )
    if body.unit not in UNITS or UNITS[body.unit].dimension != "pressure":
        raise Refused(f"{body.unit!r} is no unit of pressure.", "limit")
    most_pa = most_gauge_pa(case.facts.refrigerant)
    if body.limit is not None and UNITS[body.unit].to_si(body.limit, 0.0) > most_pa:
        raise Refused(
            f"{as_typed(body.limit, body.unit)} is more than any part of this unit holds. What does the label "
            "say is its test pressure, and in which unit?",
            "limit",
        )


def _hold_fits(case: Case[HoldBody]) -> None:
    from dry_gauge.notebook.subjects.vacuum import Vacuum  # it looks at holds as well

    body = case.body
    visit = case.visit.of_circuit(body.circuit or 1)
    on = visit[Vacuum].on
    if on is not None and on.body.what == "system":
        raise Refused("The system is being evacuated: break the vacuum first.", "section")
    if any(one.body.section.casefold() == body.section.casefold() for one in visit[Holds].on):
        raise Refused("That section is held already; give this one another name.", "section")


def _reading_cannot_be(case: Case[HoldReadingBody]) -> None:
    body = case.body
    if body.pressure_unit not in UNITS or UNITS[body.pressure_unit].dimension != "pressure":
        raise Refused(f"{body.pressure_unit!r} is no unit of pressure.", "pressure")
    if body.temp_unit not in UNITS or UNITS[body.temp_unit].dimension != "temperature":
        raise Refused(f"{body.temp_unit!r} is no unit of temperature.", "temp")
    if UNITS[body.pressure_unit].to_si(body.pressure, case.facts.atmosphere_pa) <= 0:
        raise Refused("That is below absolute zero pressure. Is it a vacuum? That has its own desk.", "pressure")
    kelvin = UNITS[body.temp_unit].to_si(body.temp)
    if not 200 < kelvin < 360:
        raise Refused("The gas is between -100 and 190 °F (-73 and 87 °C). Check the temperature and its unit.", "temp")


def _hold_for(case: Case[HoldReadingBody | HoldEndBody]) -> dict[str, KeptHold | None]:
    body = case.body
    return {"hold": case.visit[Holds].holds.get(str(body.hold))}


def _end_fits(case: Case[HoldEndBody]) -> None:
    body, hold = case.body, _hold_for(case)["hold"]
    still_on(hold, "hold")
    if hold is None:
        return
    found = hold_of(str(body.hold), hold, case.facts).verdict
    says = found.verdict.value if found else "too_soon"
    if body.verdict != says and len(body.reason) < LEAST_REASON:
        words = says.replace("_", " ")
        raise Refused(f"The arithmetic says '{words}'. Another verdict is yours, and needs a reason.", "reason")


def _under_pressure(visit: VisitState) -> list[Obstacle]:
    if visit[Agenda].booked(RETURNS):
        return []
    return [
        Obstacle(
            "hold",
            f"Still under pressure: {hold.body.section}{of_circuit(hold.body.circuit)}. End the hold, or book "
            "the return that reads it.",
            str(hold.entry_id),
        )
        for hold in visit[Holds].on
    ]


def _hold_said(body: HoldBody, _: VisitState) -> tuple[str, str]:
    limit = f", limit {as_typed(body.limit, body.unit)}" if body.limit else ", no limit on the label"
    return "Hold begun" + of_circuit(body.circuit), f"{body.section}{limit}"


def _reading_said(body: HoldReadingBody, _: VisitState) -> tuple[str, str]:
    stage = "on the way up, " if body.stage else ""
    live = ", live" if body.source == "probe" else ""
    return "Pressure test", f"{stage}{as_typed(body.pressure, body.pressure_unit)} at {as_typed(body.temp, body.temp_unit)}{live}"


def _end_said(body: HoldEndBody, _: VisitState) -> tuple[str, str]:
    return "Pressure test ended", "; ".join(filter(None, (body.verdict.replace("_", " "), body.reason)))


KINDS = (
    Kind(HoldBody, _hold_said, _begun, refuse=_hold_cannot_be, collides=_hold_fits, leaves_open=_under_pressure,
         happened=True, firm=True),
    Kind(HoldReadingBody, _reading_said, _read, refuse=_reading_cannot_be,
         collides=lambda case: still_on(_hold_for(case)["hold"], "hold"), refers=_hold_for, happened=True),
    Kind(HoldEndBody, _end_said, _ended, collides=_end_fits, refers=_hold_for, firm=True),
)  # fmt: skip
