"""What the lists of all stations show: claims, timers, ledger, proofs, obstacles, cautions and the rest."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dry_gauge.core.dimensions import UNITS, as_typed
from dry_gauge.core.visit.cautions import DEFERS, cautions_at
from dry_gauge.core.visit.complaints import FirstCheck, first_checks
from dry_gauge.core.visit.findings import COMBUSTION_FINDINGS
from dry_gauge.core.visit.run_permit import RunPermit
from dry_gauge.core.visit.thaw import plan_thaw
from dry_gauge.core.vocabulary import ICE_SIGHTS, State
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import Obstacle, in_time
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.notebook.subjects.call import Call
from dry_gauge.notebook.subjects.failed_tests import Repeat
from dry_gauge.notebook.subjects.findings import Finding, findings_in
from dry_gauge.notebook.subjects.ledger import ChangeSort, Ledger
from dry_gauge.notebook.subjects.observations import Observations
from dry_gauge.notebook.subjects.readings import KeptReading, Readings, is_of_other_mode, label_of, newest, tags_of, to_read_again
from dry_gauge.notebook.subjects.remarks import Remarks
from dry_gauge.notebook.subjects.running import CONDITION_WORDS
from dry_gauge.present.closing import Outline, outline_of
from dry_gauge.present.permit import permit_of
from dry_gauge.present.proving import Offered, offered, open_in, repeats_in
from dry_gauge.present.scene import Scene
from dry_gauge.present.visit import VisitView
from dry_gauge.present.weather import weather_cautions


@dataclass(frozen=True, slots=True)
class Progress:
    """What a reading may change besides the judgement: proofs, and first checks, each with whether it is answered."""

    checks: Sequence[tuple[FirstCheck, bool]]
    tests: dict[str, Repeat]
    offered: Sequence[Offered]
    """What would prove the repair, where nothing is named yet."""


@dataclass(frozen=True, slots=True)
class StaleReading:
    """A reading that was taken under a condition which has ended."""

    entry_id: str
    quantity: str
    label: str
    value: str
    under: str


@dataclass(frozen=True, slots=True)
class Lists:
    """Everything in a list. `stop_head` and `stop_suction` are in the reader's unit."""

    cautions: Sequence[Any]
    defers: str
    obstacles: Sequence[Obstacle]
    outline: Outline
    findings: Mapping[str, Finding]
    """By the entry that found them."""
    permit: RunPermit
    stop_head: str | None
    stop_suction: str | None
    trips: dict[str, tuple[int, int]]
    iced: bool
    thaw: Any


@dataclass(frozen=True, slots=True)
class Banner:
    """What readings are taken under now, and those that have to be read again."""

    tags: Sequence[str]
    read_again: Sequence[StaleReading]
    of_other_mode: Sequence[tuple[str, str]]
    """What was read while a heat pump did the other thing, by name and in words."""
    outdated: Mapping[str, Sequence[tuple[str, str]]]
    """By when it was read instead of now what has to be read again, by name and in words."""


def banner_of(view: VisitView) -> Banner:
    """The banner as it stands."""
    tags = [CONDITION_WORDS[tag] for tag in tags_of(view.state)]
    waiting = [one for one in newest(view.state[Readings].latest).values() if is_of_other_mode(view.state, one)]
    of_other_mode = [one.body.quantity for one in in_time(waiting)]
    outdated: dict[str, dict[str, str]] = {}
    for number in view.assessment.circuits if view.assessment else ():
        for name, when in view.outdated(number).items():
            outdated.setdefault(when, {})[name] = label_of(name)
    return Banner(
        tags,
        [_stale(one) for one in to_read_again(view.state)],
        [(name, label_of(name)) for name in of_other_mode],
        {when: list(names.items()) for when, names in outdated.items()},
    )


def progress_of(view: VisitView, reader: Reader) -> Progress:
    """Proofs and first checks as they stand."""
    states = view.state[Observations].states()
    checks = [
        (check, check.answers in states or view.state[Readings].shown(check.answers) is not None)
        for check in first_checks(view.state[Call].sorts)
    ]
    return Progress(checks, repeats_in(view, reader), offered(view, reader))


def lists_of(scene: Scene, moments: Sequence[str]) -> Lists:
    """Every list.

    Parameters
    ----------
    moments : sequence of str
        What is about to be done at the station that is shown: decides, with what is under way, which cautions are shown.
    """
    view, reader = scene.view, scene.reader
    permit = permit_of(view, scene.now)
    now = set(moments) | _under_way(view, permit)
    if view.facts.kind.value.startswith("package") and "arrive" in now:
        now.add("arrive_roof")
    if view.facts.kind.is_walk_in and "arrive" in now:
        now.add("food")
    first, last = weather_cautions(scene, now)
    return Lists(
        [*first, *cautions_at(now, view.facts, view.state[Remarks].cautions), *last],
        DEFERS,
        open_in(view, reader),
        outline_of(view, reader),
        {one.entry_id: one for one in findings_in(view.state)},
        permit,
        None if permit.stop_head_pa is None else _pressure(permit.stop_head_pa, view, reader),
        None if permit.stop_suction_pa is None else _pressure(permit.stop_suction_pa, view, reader),
        view.state[Ledger].trip_counts(),
        iced(view),
        plan_thaw(view.facts, _air_k(view)),
    )


def _stale(one: KeptReading) -> StaleReading:
    under = " and ".join(CONDITION_WORDS[tag] for tag in one.tags)
    return StaleReading(
        str(one.entry_id), one.body.quantity, label_of(one.body.quantity), as_typed(one.body.value, one.body.unit), under
    )


def _under_way(view: VisitView, permit: RunPermit) -> set[str]:
    states = view.state[Observations].states()
    under_way = {
        "thaw": view.state[Agenda].thawing or iced(view),
        "bypass": bool(view.state[Ledger].lifted_sorts & {ChangeSort.SAFETY, ChangeSort.JUMPER}),
        "blade": states.get("blade_unsafe") is State.YES,
        "combustion": any(states.get(what) is State.YES for what in COMBUSTION_FINDINGS),
        "short_cycle": permit.short_cycling,
    }
    return {moment for moment, so in under_way.items() if so}


def iced(view: VisitView) -> bool:
    """Whether ice was seen on the evaporator."""
    states = view.state[Observations].states()
    return any(states.get(what) is State.YES for what in ICE_SIGHTS)


def _pressure(pressure_pa: float, view: VisitView, reader: Reader) -> str:
    unit = reader.gauge_unit
    decimals = 1 if unit == "barg" else 0
    return f"{UNITS[unit].from_si(pressure_pa, view.facts.atmosphere_pa):.{decimals}f} {unit}"


def _air_k(view: VisitView) -> float | None:
    first = view.assessment.first if view.assessment else None
    air = first.view.entering_evaporator_air if first else None
    return None if air is None else air.value
