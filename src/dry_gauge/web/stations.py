"""What each station of a visit shows: built from the visit as it stands, in the reader's units."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.cautions import DEFERS, cautions_at
from dry_gauge.core.complaints import TRIAGE, Complaint, FirstCheck, first_checks
from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.quantities import UNITS
from dry_gauge.core.run_permit import RunPermit
from dry_gauge.core.settling import Settling
from dry_gauge.core.survey import survey
from dry_gauge.core.thaw import plan_thaw
from dry_gauge.core.vocabulary import ICE_SIGHTS, QUANTITIES, SIGHTS, Fault, State
from dry_gauge.core.words import Reader
from dry_gauge.drawing.loop import LoopMark, loop_svg
from dry_gauge.notebook.kind import obstacles
from dry_gauge.notebook.subjects.actions import ACTION_WORDS, ActionSort
from dry_gauge.notebook.subjects.agenda import Agenda, FollowUpSort
from dry_gauge.notebook.subjects.call import Call
from dry_gauge.notebook.subjects.closing import OUTCOME_WORDS
from dry_gauge.notebook.subjects.failed_tests import FailedTests, repeat_of
from dry_gauge.notebook.subjects.ledger import CHANGE_WORDS, ChangeSort, Ledger
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.readings import Readings, tags_of
from dry_gauge.notebook.subjects.remarks import Remarks
from dry_gauge.notebook.subjects.running import CONDITION_WORDS
from dry_gauge.present.rail import DESKS, stations
from dry_gauge.present.settling import settling_of
from dry_gauge.service.history import History, history_of
from dry_gauge.service.notebooks import VisitView
from dry_gauge.store.people import Someone
from dry_gauge.store.register import instruments_of
from dry_gauge.web.desks import desk_values
from dry_gauge.web.permit import permit_of
from dry_gauge.web.render import Row, circuit_of, row_of, shown_value, sight_row

STATIONS = ("arrive", "look", "air", "read", "mend", *DESKS, "close")
_AIR_SIGHTS = ("evaporator_air_proven", "filter_dirty", "filter_missing", "evaporator_dirty", "blower_stopped",
               "blower_belt_slipping", "damper_closed", "condenser_air_proven", "condenser_dirty", "condenser_fan_stopped",
               "condenser_fan_reversed", "condenser_air_recirculating", "discharge_air_pulsing")  # fmt: skip
_AIR_READINGS = ("external_static_return", "external_static_supply", "airflow", "return_air_temp", "return_air_wet_bulb",
                 "supply_air_temp", "outdoor_air_temp", "condenser_leaving_air_temp", "blower_amps",
                 "condenser_fan_amps")  # fmt: skip
_AIR_READINGS_BOX = ("box_air_temp", "supply_air_temp", "box_rh", "product_temp", "outdoor_air_temp",
                     "condenser_leaving_air_temp", "blower_amps", "condenser_fan_amps")  # fmt: skip
# What the refrigerant is opened for, and what is done wet.
_OPENS = frozenset({ActionSort.CHARGE_ADJUSTED, ActionSort.METERING_DEVICE, ActionSort.DRIER_CHANGED})
_WET = frozenset({ActionSort.EVAPORATOR_CLEANED, ActionSort.CONDENSER_CLEANED})


def rail(view: VisitView, here: str) -> dict[str, Any]:
    """The stations and how far each is."""
    first = view.assessment.first if view.assessment else None
    released = {gate.name for gate in first.gates if not gate.holding} if first else set()
    listed = stations(
        view.state, view.visit.complaint, view.facts, released, first.verdict if first and first.view.measured else "",
        view.visit.status == "closed",
    )  # fmt: skip
    return {"stations": listed, "here": here, "rail_here": "sealed" if here in DESKS else here}


def moments(view: VisitView, here: str, permit: RunPermit) -> set[str]:
    """What is about to be done or under way: decides which cautions are shown."""
    state = view.state
    now = {here}
    if here == "arrive" and view.facts.kind.value.startswith("package"):
        now.add("arrive_roof")
    if view.facts.kind.is_walk_in and here == "arrive":
        now.add("food")
    if state[Agenda].thawing or _iced(view):
        now.add("thaw")
    sorts = state[Ledger].lifted_sorts
    if ChangeSort.SAFETY in sorts or ChangeSort.JUMPER in sorts:
        now.add("bypass")
    states = state[Observations].states()
    if states.get("fan_blade_damaged") is State.YES:
        now.add("blade")
    if states.get("heat_exchanger_cracked") is State.YES:
        now.add("combustion")
    now |= _DESK_MOMENTS.get(here, set())
    if permit.short_cycling:
        now.add("short_cycle")
    return now


# Cautions that a sort of action brings, shown as soon as it is chosen.
ACTION_MOMENTS = {
    **{sort: {"open_system", "recover", "braze", "nitrogen"} for sort in _OPENS},
    **{sort: {"wash"} for sort in _WET},
    ActionSort.CHARGE_ADJUSTED: {"open_system", "recover"},
    ActionSort.ELECTRICAL_PART: {"electrical"},
    ActionSort.OUTDOOR_FAN: {"fan"},
    ActionSort.BELT_OR_BLOWER: {"fan"},
    ActionSort.THAWED: {"thaw"},
}


_DESK_MOMENTS = {"sealed": {"open_system"}, "recover": {"recover", "open_system"}, "leak": {"braze"}, "hold": {"nitrogen"},
                 "weigh": {"open_system", "read"}}  # fmt: skip


def _iced(view: VisitView) -> bool:
    states = view.state[Observations].states()
    return any(states.get(what) is State.YES for what in ICE_SIGHTS)


def progress(view: VisitView, reader: Reader, here: str, may_write: bool) -> dict[str, Any]:
    """What a reading may change besides the judgement: how far each station is, proofs, first checks."""
    state = view.state
    sorts = state[Call].sorts
    return {
        "view": view, "visit": view.visit, "units": reader,
        "may_write": may_write and view.visit.status != "closed", "checks": _checks(first_checks(sorts), view),
        "tests": {key: repeat_of(view.state, test) for key, test in state[FailedTests].tests.items()}, **rail(view, here),
    }  # fmt: skip


def lists(view: VisitView, reader: Reader, here: str, may_write: bool) -> dict[str, Any]:
    """What the lists of all stations show: claims, timers, ledger, proofs, obstacles and the rest."""
    permit = permit_of(view)
    return progress(view, reader, here, may_write) | {
        "cautions": cautions_at(moments(view, here, permit), view.facts, view.state[Remarks].cautions), "defers": DEFERS,
        "obstacles": obstacles(view.state), "permit": permit,
        "stop_head": None if permit.stop_head_pa is None else _pressure(permit.stop_head_pa, view, reader),
        "stop_suction": _pressure(permit.stop_suction_pa, view, reader),
        "trips": view.state[Ledger].trip_counts(), "iced": _iced(view), "thaw": plan_thaw(view.facts, _air_k(view)),
        "tags": [CONDITION_WORDS[tag] for tag in tags_of(view.state)],
    }  # fmt: skip


def _checks(checks: Sequence[FirstCheck], view: VisitView) -> list[tuple[FirstCheck, bool]]:
    """Proposed checks, each with whether it is answered."""
    states = view.state[Observations].states()
    return [(check, check.answers in states or view.state[Readings].shown(check.answers) is not None) for check in checks]


def _pressure(pressure_pa: float, view: VisitView, reader: Reader) -> str:
    unit = reader.gauge_unit
    decimals = 1 if unit == "barg" else 0
    return f"{UNITS[unit].from_si(pressure_pa, view.facts.atmosphere_pa):.{decimals}f} {unit}"


def _air_k(view: VisitView) -> float | None:
    first = view.assessment.first if view.assessment else None
    air = first.view.entering_evaporator_air if first else None
    return None if air is None else air.value


@dataclass(frozen=True, slots=True)
class SurveyPlace:
    """A place of the survey with its questions as switches."""

    name: str
    label: str
    answered: int
    findings: tuple[str, ...]
    rows: list[Any]


def look(view: VisitView, reader: Reader) -> dict[str, Any]:
    """The survey and the loop."""
    found = survey(view.facts, view.state[Observations].states())
    marks = [
        LoopMark(place, f"{shown_value(kept, view.facts, reader.temperature_unit)} °{reader.temperature_unit}")
        for place, quantity in (("suction", "suction_line_temp"), ("compressor", "discharge_line_temp"),
                                ("liquid", "liquid_line_temp"))
        if (kept := view.state[Readings].shown(quantity))
    ]  # fmt: skip
    places = [
        SurveyPlace(state.place.name, state.place.label, state.answered, state.findings,
                    [sight_row(SIGHTS[what], view) for what in state.place.sights])
        for state in found
    ]  # fmt: skip
    return {"places": places, "loop": Markup(loop_svg(view.facts, found, marks))}  # noqa: S704


def air(view: VisitView, reader: Reader, circuit: int) -> dict[str, Any]:
    """Air proven on both coils: what is looked at and what is read for it."""
    in_box = view.facts.kind.is_walk_in
    skip = {"filter_dirty", "filter_missing", "damper_closed", "blower_belt_slipping"} if in_box else set()
    sights = [sight_row(SIGHTS[what], view) for what in _AIR_SIGHTS if what not in skip]
    names = _AIR_READINGS_BOX if in_box else _AIR_READINGS
    rows: list[Row] = [row_of(QUANTITIES[name], view, reader, circuit) for name in names]
    return {"air_sights": sights, "air_rows": rows}


@dataclass(frozen=True, slots=True)
class Comparison:
    """One gap now and on the visit before."""

    label: str
    then: str
    now: str


def compared(view: VisitView, last: VisitView | None, reader: Reader) -> list[Comparison]:
    """This visit's gaps beside those of the visit before."""
    now, then = (circuit_of(one, 1) if one else None for one in (view, last))
    if then is None:
        return []
    rows = []
    for name, label in GAP_LABELS.items():
        before = then.derived.get(name)
        if before is None or not before.measured.sources:
            continue
        value = now.derived.get(name) if now else None
        if name in ("superheat", "subcooling", "evaporator_td", "condenser_split", "air_split", "coil_superheat"):
            rows.append(Comparison(label, reader.say("difference", before.value),
                                   reader.say("difference", value.value) if value else ""))  # fmt: skip
    return rows


def arrive(connection: Connection, view: VisitView, someone: Someone, reader: Reader) -> dict[str, Any]:
    """What is known before anything is touched."""
    history: History = history_of(connection, someone, view.visit.unit_id, but=view.visit.id)
    return {"history": history, "comparison": compared(view, history.last, reader), "triage": TRIAGE,
            "Complaint": Complaint}  # fmt: skip


def mend(view: VisitView) -> dict[str, Any]:
    """The forms of the Mend station."""
    given = view.state[Remarks].cautions
    return {
        "ACTIONS": ACTION_WORDS, "CHANGES": CHANGE_WORDS, "QUANTITIES": QUANTITIES,
        "action_cautions": {sort: cautions_at(ACTION_MOMENTS.get(sort, ()), view.facts, given) for sort in ActionSort},
        "faults": [fault for fault in Fault if fault is not Fault.NONE],
    }  # fmt: skip


def read_more(connection: Connection, view: VisitView, settling: Settling | None = None) -> dict[str, Any]:
    """What the Read station shows beside the sheet: settling, instruments, stage, conditions."""
    return {
        "settling": settling or settling_of(view.state, view.facts), "CONDITIONS": CONDITION_WORDS,
        "instruments": instruments_of(connection), "today": datetime.now(UTC).date(),
    }  # fmt: skip


def station_values(
    connection: Connection, view: VisitView, someone: Someone, reader: Reader, here: str, circuit: int
) -> dict[str, Any]:
    """Everything a station's own panel needs."""
    values = lists(view, reader, here, someone.may_write)
    match here:
        case "arrive":
            values |= arrive(connection, view, someone, reader)
        case "look":
            values |= look(view, reader) | {"CONDITIONS": CONDITION_WORDS}
        case "air":
            values |= air(view, reader, circuit) | {"CONDITIONS": CONDITION_WORDS}
        case "mend":
            values |= mend(view)
        case desk if desk in DESKS:
            values |= desk_values(connection, view, someone, reader, here, circuit)
        case "close":
            values |= {"OUTCOMES": OUTCOME_WORDS, "FOLLOW_UPS": [sort.value for sort in FollowUpSort]}
        case _:
            values |= read_more(connection, view)
    return values
