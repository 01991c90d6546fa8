"""What the sealed work amounts to: verdicts, what is left to add, which step is next, and what is in the way of closing.

Pure: everything is worked out from the entries, the unit's card and a moment handed in.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

from dry_gauge.core import charge
from dry_gauge.core.errors import Refused
from dry_gauge.core.leak_search import BY_CODE
from dry_gauge.core.mass import GRAM_KG, slipped
from dry_gauge.core.opening import Plan, Step, plan_of
from dry_gauge.core.pressure_hold import ALLOWED_PA_H, HoldReading, HoldVerdict, judge_hold
from dry_gauge.core.pull_down import SWEEP_BELOW_PA, PullDown, pull_down
from dry_gauge.core.quantities import FAHRENHEIT_K, UNITS
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vacuum import END_POINTS, MICRON_PA, Decay, Rise, judge_decay
from dry_gauge.core.vocabulary import QUANTITIES, default_half_width_si
from dry_gauge.notebook import sealed as s
from dry_gauge.notebook.call_state import Kept
from dry_gauge.notebook.calling import ActionSort, FollowUpSort
from dry_gauge.notebook.sealed_state import KeptEvacuation, KeptHold, SealedState
from dry_gauge.notebook.state import VisitState

_CLAMP_HALF_K = 1.5 * FAHRENHEIT_K


# -- weights ---------------------------------------------------------------


def target_of(state: SealedState, facts: UnitFacts) -> charge.ChargeTarget | None:
    """What belongs in by this visit's target; by the label alone where none was made; None without a label."""
    if state.target is not None:
        return target_from(state.target.body, facts)
    if not facts.label_charge_kg:
        return None
    return charge.charge_target(facts.refrigerant, facts.label_charge_kg)


def target_from(body: s.ChargeTargetBody, facts: UnitFacts) -> charge.ChargeTarget:
    """A target as it was made.

    Raises
    ------
    Refused
        Where nothing, or less, would be left.
    """
    line_set = None
    if body.line_length_m is not None:
        maker = None if body.maker_g_per_m is None else body.maker_g_per_m * GRAM_KG
        line_set = charge.LineSet(body.line_length_m, body.line, body.line_included_m, maker)
    changes = [(body.change_words or "Change", body.change_g * GRAM_KG)]
    return charge.charge_target(facts.refrigerant, body.label_g * GRAM_KG, line_set, body.drier_g * GRAM_KG, changes)


def in_unit_kg(state: SealedState, gross_g: int | None = None) -> float | None:
    """What is in the unit, the pour that is on counted up to what the scale shows; None where nobody knows. [kg]"""
    known = state.in_unit_g()
    if known is None:
        return None
    pour = state.pouring
    on = pour.so_far_g(gross_g) if pour else 0
    if pour and pour.body.way in s.OUT_OF_UNIT:
        on = -on
    return (known + on) * GRAM_KG


def standing_of(state: SealedState, facts: UnitFacts, gross_g: int | None = None) -> charge.Standing | None:
    """In the unit against the target; None where either is not known."""
    target, inside = target_of(state, facts), in_unit_kg(state, gross_g)
    return None if target is None or inside is None else charge.Standing(inside, target.kg)


def expected_kg(state: SealedState, facts: UnitFacts, way: s.Way) -> float | None:
    """About what a movement of that sort should be, to catch pounds typed as ounces. [kg]"""
    standing = standing_of(state, facts)
    match way:
        case s.Way.RECOVERED:
            return facts.label_charge_kg
        case s.Way.WEIGHED_IN:
            return standing.to_go_kg if standing and standing.to_go_kg > 0 else facts.label_charge_kg
        case _:
            return None


def slip_in(state: SealedState, facts: UnitFacts, way: s.Way, grams: int) -> tuple[str, str] | None:
    """The units that were probably mixed up in a movement: written, meant."""
    return slipped(grams * GRAM_KG, expected_kg(state, facts, way))


# -- holds -----------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class HoldView:
    """A hold with its verdict; None before its first counted reading."""

    key: str
    kept: KeptHold
    verdict: HoldVerdict | None
    over_limit: bool


def _hold_reading(kept: Kept[s.HoldReadingBody], start: datetime, facts: UnitFacts) -> HoldReading:
    body = kept.body
    pressure = UNITS[body.pressure_unit]
    pressure_pa = pressure.to_si(body.pressure, facts.atmosphere_pa)
    half_pa = default_half_width_si(QUANTITIES["standing_pressure"], pressure_pa, facts.atmosphere_pa)
    if body.pressure_accuracy is not None:
        half_pa = body.pressure_accuracy * pressure.scale
    temperature = UNITS[body.temp_unit]
    half_k = _CLAMP_HALF_K if body.temp_accuracy is None else body.temp_accuracy * temperature.scale
    return HoldReading((kept.at - start).total_seconds(), pressure_pa, temperature.to_si(body.temp), half_pa, half_k,
                       body.gauge, body.thermometer)  # fmt: skip


def hold_of(key: str, kept: KeptHold, facts: UnitFacts, allowed_pa_h: float = ALLOWED_PA_H) -> HoldView:
    """One hold as it stands; readings on the way up do not count."""
    counted = [one for one in kept.readings if not one.body.stage]
    over = False
    if kept.body.limit is not None:
        limit_pa = UNITS[kept.body.unit].to_si(kept.body.limit, facts.atmosphere_pa)
        over = any(UNITS[one.body.pressure_unit].to_si(one.body.pressure, facts.atmosphere_pa) > limit_pa * 1.005
                   for one in kept.readings[-1:])  # fmt: skip
    if not counted:
        return HoldView(key, kept, None, over)
    listed = [_hold_reading(one, counted[0].at, facts) for one in counted]
    return HoldView(key, kept, judge_hold(listed, allowed_pa_h), over)


def check_hold_reading(body: s.HoldReadingBody, facts: UnitFacts) -> None:
    """Refuse a hold reading that cannot be.

    Raises
    ------
    Refused
    """
    if body.pressure_unit not in UNITS or UNITS[body.pressure_unit].dimension != "pressure":
        raise Refused(f"{body.pressure_unit!r} is no unit of pressure.", "pressure")
    if body.temp_unit not in UNITS or UNITS[body.temp_unit].dimension != "temperature":
        raise Refused(f"{body.temp_unit!r} is no unit of temperature.", "temp")
    if UNITS[body.pressure_unit].to_si(body.pressure, facts.atmosphere_pa) <= 0:
        raise Refused("That is below absolute zero pressure. Is it a vacuum? That has its own desk.", "pressure")
    kelvin = UNITS[body.temp_unit].to_si(body.temp)
    if not 200 < kelvin < 360:
        raise Refused("The gas is between -100 and 190 °F. Check the temperature and its unit.", "temp")


# -- evacuation ------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class Watch:
    """One time with the valve shut, and what its rise says."""

    started: datetime
    ended: datetime | None
    decay: Decay


@dataclass(frozen=True, slots=True)
class EvacuationView:
    """An evacuation as it stands: its watches, and how the pull-down goes while the pump is on."""

    key: str
    kept: KeptEvacuation
    watches: tuple[Watch, ...]
    pull: PullDown | None
    micron: float | None
    minutes_pumping: float

    @property
    def last(self) -> Decay | None:
        """What the latest watch says."""
        return self.watches[-1].decay if self.watches else None

    @property
    def sweep_now(self) -> bool:
        """Whether a triple evacuation is low enough to be swept."""
        low = self.micron is not None and self.micron * MICRON_PA <= SWEEP_BELOW_PA
        return low and self.kept.sweeps_left > 0 and not self.kept.watching

    @property
    def passed(self) -> bool:
        """Whether the latest watch held, and nothing was opened to the air since."""
        return self.last is not None and self.last.verdict is Rise.TIGHT


def evacuation_of(
    key: str, kept: KeptEvacuation, live: tuple[tuple[datetime, float], ...] = (), now: datetime | None = None
) -> EvacuationView:
    """One evacuation; `live` points, moment and microns, count beside those that were kept."""
    if live:
        known = {at for at, _ in kept.points}
        fresh = [point for point in live if point[0] not in known]
        kept = kept.model_copy(update={"points": tuple(sorted([*kept.points, *fresh]))})
    end_point = END_POINTS[kept.body.school]
    watches = []
    for start, end in kept.watches():
        points = kept.points_between(start, end)
        decay = judge_decay([at for at, _ in points], [micron * MICRON_PA for _, micron in points], end_point)
        watches.append(Watch(start, end, decay))
    pumping = [one.at for one in kept.events if one.body.event in (s.VacuumEvent.PUMP_ON, s.VacuumEvent.OPENED)]
    pull, minutes = None, 0.0
    if pumping and not kept.watching:
        first = pumping[0] if not watches else pumping[-1]
        points = kept.points_between(first, now)
        minutes = points[-1][0] / 60 if points else 0.0
        pull = pull_down([at / 60 for at, _ in points], [micron * MICRON_PA for _, micron in points],
                         kept.body.target_micron * MICRON_PA, kept.body.water_suspected)  # fmt: skip
    micron = kept.points[-1][1] if kept.points else None
    return EvacuationView(key, kept, tuple(watches), pull, micron, minutes)


# -- plan ------------------------------------------------------------------


@dataclass(frozen=True, slots=True)
class StepView:
    """A step and how far it is: ``done``, ``next``, ``open`` or ``skipped``, with how that is known."""

    step: Step
    progress: str
    note: str = ""


def plan_in(state: SealedState, facts: UnitFacts) -> Plan | None:
    """The way that fits what was said; None before anything was."""
    if state.plan is None:
        return None
    body = state.plan.body
    return plan_of(facts, body.repair, body.compressor_runs, body.receiver_holds)


def steps_in(visit: VisitState, facts: UnitFacts) -> tuple[StepView, ...]:
    """The plan's steps; what the notebook shows to be done needs no tick."""
    state, plan = visit.sealed, plan_in(visit.sealed, facts)
    if plan is None:
        return ()
    shown = _shown_done(visit)
    found: list[StepView] = []
    for step in plan.steps:
        said = state.steps.get(step.code)
        if shown.get(step.code):
            found.append(StepView(step, "done", shown[step.code]))
        elif said is not None:
            found.append(StepView(step, "done" if said.body.done else "skipped", said.body.reason))
        else:
            found.append(StepView(step, "open"))
    first = next((i for i, one in enumerate(found) if one.progress == "open"), None)
    if first is not None:
        found[first] = StepView(found[first].step, "next")
    return tuple(found)


def _shown_done(visit: VisitState) -> Mapping[str, str]:
    """Steps that the entries show to be done, and by what."""
    state, call = visit.sealed, visit.call
    moved = {one.way for one in state.moved.values()}
    held = any(one.verdict == "tight" for one in state.holds.values())
    pulled = any(not one.open and one.body.what == "system" for one in state.evacuations.values())
    drier = any(kept.body.sort is ActionSort.DRIER_CHANGED for kept in call.actions.values())
    searched = bool(state.places)
    done = {
        "lock": "locked out" if call.locked or "start" in state.steps else "",
        "recover": "weighed and at its vacuum" if state.recovered_to and s.Way.RECOVERED in moved else "",
        "remove": "weighed" if s.Way.REMOVED in moved else "",
        "search": f"{len(state.places)} places" if searched else "",
        "braze": "cure on record" if state.cures else "",
        "close_up": "drier changed" if drier else "",
        "hold": "tight" if held else "",
        "evacuate": "done" if pulled else "",
        "weigh": "weighed in" if s.Way.WEIGHED_IN in moved else "",
        "trim": "by the scale" if moved & {s.Way.TRIMMED, s.Way.ADDED} else "",
    }
    return {code: words for code, words in done.items() if words}


# -- before anyone leaves --------------------------------------------------


def sealed_obstacles(visit: VisitState) -> tuple[tuple[str, str, str], ...]:
    """What the sealed work leaves open: code, words, entry."""
    state, call = visit.sealed, visit.call
    found: list[tuple[str, str, str]] = []
    recheck = any(
        kept.open and kept.body.sort in (FollowUpSort.RECHECK, FollowUpSort.RETURN) for kept in call.follow_ups.values()
    )
    if state.pouring:
        found.append(("pour", "A pour is still on: read the scale and end it.", str(state.pouring.entry_id)))
    for hold in () if recheck else state.holding:
        found.append(("hold", f"Still under pressure: {hold.body.section}. End the hold, or book the return that reads it.",
                      str(hold.entry_id)))  # fmt: skip
    on = state.evacuating
    if on:
        found.append(
            ("evacuation", "An evacuation is still on: watch it with the valve shut, then break it.", str(on.entry_id))
        )
    evacuated = any(one.body.what == "system" for one in state.evacuations.values())
    opened = bool(state.cures or state.holds or evacuated or state.recovered_to)
    drier = any(kept.body.sort is ActionSort.DRIER_CHANGED for kept in call.actions.values())
    if opened and not drier and "close_up" not in state.steps:
        found.append(("close_up", "The system was opened: new drier, cores, seals, caps? Say so, or why not.", ""))
    for leak in state.failed_places():
        name = BY_CODE[leak.body.place].label if leak.body.place in BY_CODE else leak.body.place
        if not recheck:
            found.append(("leak", f"Leak not mended: {name}. Mend it, or book the return.", str(leak.entry_id)))
    if any(cure.body.cure == "patch" for cure in state.cures.values()) and not recheck:
        found.append(("patch", "A patch is temporary: book its recheck.", ""))
    if any(one.way is s.Way.ADDED for one in state.moved.values()) and not recheck:
        found.append(("top_up", "A top-up hides a leak until the next call: book a recheck.", ""))
    if state.emptied and state.put_in_g <= 0 and not recheck:
        found.append(("empty", "It was emptied and nothing was weighed in: lock it out and book the return.", ""))
    return tuple(found)
