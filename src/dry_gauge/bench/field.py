"""Units as they are met: what is installed where, with which refrigerant, in what weather. Drawn, never the same twice.

The draw has a `style`: the calibration's own, or another field with other habits, tails and proportions, on which the
judgement is measured without having seen it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from dry_gauge.bench.commissioning import charged, has_subcooling_label
from dry_gauge.bench.machine import Machine
from dry_gauge.bench.makes import Makes, held_out
from dry_gauge.bench.plant import Faults, Habits, Nameplate, Weather
from dry_gauge.core.efficiency import split_by_seer_f
from dry_gauge.core.judgement.features import vapour_step
from dry_gauge.core.judgement.hypotheses import MECHANISMS
from dry_gauge.core.quantities import BTU_PER_HOUR_W, FAHRENHEIT_K, atmospheric_pressure_pa, to_kelvin
from dry_gauge.core.refrigerants.catalogue import Refrigerant, find
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import EvaporatorClass, Fault, HeadPressureControl, Kind, Metering, Mode

# What each kind is usually filled with; the first is the most common.
COMFORT = (
    "R-410A", "R-22", "R-32", "R-454B", "R-407C", "R-134a", "R-427A", "R-417A", "R-421A", "R-422D", "R-438A", "R-452B",
    "R-466A", "R-290",
)  # fmt: skip
MEDIUM = (
    "R-404A", "R-134a", "R-448A", "R-449A", "R-22", "R-507A", "R-513A", "R-407A", "R-290", "R-450A", "R-407F", "R-407H",
    "R-407C", "R-422D", "R-454A", "R-454C", "R-455A", "R-452A", "R-1234yf", "R-1234ze(E)", "R-12", "R-401A", "R-409A",
    "R-414B", "R-600a", "R-408A", "R-402A", "R-502",
)  # fmt: skip
LOW = (
    "R-404A", "R-448A", "R-449A", "R-507A", "R-407A", "R-22", "R-290", "R-407F", "R-452A", "R-454A", "R-454C", "R-455A",
    "R-408A", "R-402A", "R-502", "R-422D",
)  # fmt: skip
# What a wrong bottle holds. One whose pressures nearly fit the label's (R-134a for R-513A) is no case: nothing shows.
BOTTLES = ("R-410A", "R-134a", "R-22", "R-404A", "R-407C")
_OTHER_ENOUGH = 0.3  # logarithm of their pressures at one temperature
# At the design point; in the field the suction line and a warmer box add some degrees.
_WALK_IN_TD_F = {EvaporatorClass.HIGH_HUMIDITY: 7.3, EvaporatorClass.GENERAL: 10.5, EvaporatorClass.LOW_HUMIDITY: 14.5}
_HEATING_SPLIT_F = {True: 38.0, False: 35.0}  # at which a piston or a valve is chosen, `Machine._size`
_SET_BELOW_F = 1.0  # chosen: a walk-in's valve is set so far below its usual place that it stands there once it feeds a warm box
# A box whose unit has lost capacity floats up until it gets what it asks for.
_COSTS = 0.45  # share of capacity that a fault of full size costs (chosen, near the sizes that docs/accuracy.md prints)
_TO_SPARE = (0.1, 0.4)  # share of capacity left over on the day (habit: a box is sized to run 16 to 18 hours)
_BALANCED_BY = 0.06  # share of capacity, per K that a box is warmer: it asks for less and its unit gives more (habit)
_WARMEST_K = 6.0  # by then somebody has carried the goods away (chosen)
_SEERS = (10.0, 12.0, 14.0, 16.5)  # one of each class of condenser


# A nameplate, what its card says, and outdoor air, entering air and wet bulb. [K]
_Drawn = tuple[Nameplate, dict[str, Any], tuple[float, float, float]]


@dataclass(frozen=True, slots=True)
class Style:
    """How a field of units is drawn."""

    spread: float = 1.0
    tails: float | None = None
    common: float = 0.5
    """Share of units on the most common refrigerants."""
    told: float = 0.8
    """How often what the label would say is known."""
    makes: tuple[int, ...] = ()
    """Whose units they are, by number; all by the textbook if empty."""


CALIBRATION = Style()
ELSEWHERE = Style(spread=1.0, tails=5.0, common=0.35)


def elsewhere(fold: int) -> Style:
    """Another field than the calibration's, of makes that this fold has never seen."""
    return replace(ELSEWHERE, makes=held_out(fold))


@dataclass(frozen=True, slots=True)
class Field:
    """A row of units: as built, as known to the technician, in today's weather."""

    nameplates: tuple[Nameplate, ...]
    facts: tuple[UnitFacts, ...]
    habits: Habits
    weather: Weather
    makes: Makes
    models: tuple[Nameplate, ...]
    """As their makers state them, before anybody charged them."""

    def built(self) -> Machine:
        """The units themselves."""
        return Machine(self.nameplates, self.habits, self.makes)


def draw(
    n: int,
    chance: np.random.Generator,
    style: Style = CALIBRATION,
    kinds: Sequence[Kind] = tuple(Kind),
    modes: Sequence[Mode] = tuple(Mode),
    fixed: bool | None = None,
    mistaken: bool = False,
) -> Field:
    """A field of units.

    Parameters
    ----------
    kinds, modes, fixed
        Which sorts to draw from; `fixed` None draws both sorts of metering.
    mistaken : bool
        Whether each is filled with something its label does not say.
    """
    plates, facts, outdoor, entering, wet, stage, frost, atmosphere = [], [], [], [], [], [], [], []
    for _ in range(n):
        kind = kinds[int(chance.integers(len(kinds)))]
        usable = [mode for mode in modes if mode is Mode.COOLING or kind.is_heat_pump]
        mode = usable[chance.integers(len(usable))]
        is_fixed = bool(chance.random() < (0.12 if kind.is_walk_in else 0.42)) if fixed is None else fixed
        if kind.is_walk_in:
            plate, fact, weather = _walk_in(kind, is_fixed, chance, style, mistaken)
        else:
            plate, fact, weather = _comfort(kind, mode, is_fixed, chance, style, mistaken)
        elevation_m = float(chance.choice([0.0, 0.0, 0.0, 600.0, 1500.0]))
        plates.append(plate)
        facts.append(UnitFacts(**fact, elevation_m=elevation_m))
        outdoor.append(weather[0])
        entering.append(weather[1])
        wet.append(weather[2])
        stage.append(1.0)
        frost.append(float(chance.uniform(0, 0.25)) if mode is Mode.HEATING and weather[0] < to_kelvin(40) else 0.0)
        atmosphere.append(atmospheric_pressure_pa(elevation_m))
    habits = _habits(plates, chance, style)
    makes = Makes.of([style.makes[i] for i in chance.integers(len(style.makes), size=n)]) if style.makes else Makes.textbook(n)
    chosen = tuple(_as_chosen(plate, makes, i) for i, plate in enumerate(plates))
    return Field(
        charged(chosen, habits, makes, chance),
        tuple(facts),
        habits,
        Weather.of(outdoor, entering, wet, stage=np.array(stage), frost=np.array(frost), atmosphere_pa=np.array(atmosphere)),
        makes,
        chosen,
    )


def _habits(plates: Sequence[Nameplate], chance: np.random.Generator, style: Style) -> Habits:
    drawn = Habits.drawn(len(plates), chance, style.spread, style.tails)
    # Units are charged until the target is met: what is left of a spread after that is small.
    trimmed = np.array([plate.metering.is_fixed for plate in plates])
    return replace(
        drawn,
        metering=np.where(trimmed, drawn.metering**0.4, drawn.metering),
        charge=drawn.charge**0.5,
        superheat_set=drawn.superheat_set**0.8,
    )


def like_units(drawn: Field, chance: np.random.Generator, style: Style) -> Field:
    """For each unit another one of its model, installed and charged by itself, in the same weather."""
    habits = _habits(drawn.models, chance, style)
    return replace(drawn, habits=habits, nameplates=charged(drawn.models, habits, drawn.makes, chance))


def _as_chosen(plate: Nameplate, makes: Makes, i: int) -> Nameplate:
    """The nameplate as its maker would have it: no two choose the same gaps. A subcooling that is chosen stands on the label."""
    heating, walk_in = plate.mode is Mode.HEATING, plate.kind.is_walk_in
    split_k = plate.condenser_split_k + float((makes.heating_split_k if heating else makes.split_k)[i])
    share = 0.6 if walk_in else 0.5 if heating else 1.0  # of a smaller gap makers differ by less
    other_k = 0.0 if has_subcooling_label(plate) else float((makes.heating_subcooling_k if heating else makes.subcooling_k)[i])
    subcooling_k = plate.design_subcooling_k + other_k
    return replace(
        plate,
        evaporator_td_k=max(plate.evaporator_td_k + share * float(makes.td_k[i]), 3.0),
        condenser_split_k=max(split_k, 4.0),
        design_superheat_k=max(plate.design_superheat_k + share * float(makes.superheat_k[i]), 1.5),
        design_subcooling_k=min(max(subcooling_k, 1.5), 0.75 * max(split_k, 4.0)),
    )


def other_day(drawn: Field, chance: np.random.Generator) -> Field:
    """The same units in other weather: within 15 F outdoors and 3 F indoors of where they were drawn."""
    n, weather = len(drawn.facts), drawn.weather
    indoors = chance.uniform(-3, 3, n) * FAHRENHEIT_K
    return replace(
        drawn,
        weather=replace(
            weather,
            outdoor_k=weather.outdoor_k + chance.uniform(-15, 15, n) * FAHRENHEIT_K,
            return_k=weather.return_k + indoors,
            return_wet_bulb_k=np.minimum(
                weather.return_wet_bulb_k + indoors + chance.uniform(-2, 2, n) * FAHRENHEIT_K, weather.return_k + indoors - 0.5
            ),
        ),
    )


def warmed(drawn: Field, faults: Faults, chance: np.random.Generator) -> Field:
    """The same with every box as warm as a unit short of capacity leaves it; a box's own extra load is the solver's."""
    costs = np.where([fault is Fault.HIGH_EVAPORATOR_LOAD for fault in MECHANISMS], 0.0, _COSTS)
    lost = 1 - np.prod(1 - costs[:, None] * faults.severity, axis=0)
    short = np.maximum(lost - chance.uniform(*_TO_SPARE, len(drawn.facts)), 0.0)
    boxes = np.array([facts.kind.is_walk_in for facts in drawn.facts])
    warmer_k = np.where(boxes, np.minimum(short / _BALANCED_BY, _WARMEST_K), 0.0)
    weather = drawn.weather
    return replace(
        drawn,
        weather=replace(weather, return_k=weather.return_k + warmer_k, return_wet_bulb_k=weather.return_wet_bulb_k + warmer_k),
    )


def nameplate_of(facts: UnitFacts) -> Nameplate:
    """The unit on a card as a simulated one, meeting the middle of its targets; what is not known is as usual."""
    heating, walk_in = facts.heating, facts.kind.is_walk_in
    freezer = facts.kind is Kind.WALK_IN_FREEZER
    metering = facts.metering or Metering.TXV
    label_f = facts.target_subcooling_k / FAHRENHEIT_K if facts.target_subcooling_k else 9.0
    if walk_in:
        td_f = 7.0 if freezer else _WALK_IN_TD_F[facts.evaporator_class or EvaporatorClass.GENERAL]
        split_f, superheat_f, subcooling_f = (13.5, 4.2, 5.0) if freezer else (21.0, 6.0, 5.0)
        superheat_f -= 0.0 if metering.is_fixed else _SET_BELOW_F
    elif heating:
        td_f, split_f, superheat_f, subcooling_f = 12.5, _HEATING_SPLIT_F[metering.is_fixed], 7.0, 10.5
    else:
        td_f, split_f = 35.0, split_by_seer_f(facts.seer) if facts.seer else 20.0
        superheat_f, subcooling_f = (10.5 if metering.is_fixed else 9.5), min(label_f + 1.5, 0.75 * split_f)
    return Nameplate(
        facts.kind,
        facts.refrigerant,
        facts.mode,
        metering,
        facts.receiver,
        facts.nominal_capacity_w or (4000.0 if walk_in else 10_550.0),
        td_f * FAHRENHEIT_K,
        split_f * FAHRENHEIT_K,
        superheat_f * FAHRENHEIT_K,
        subcooling_f * FAHRENHEIT_K,
        facts.design_box_k,
        facts.head_pressure_control or HeadPressureControl.NONE,
    )


def as_labelled(field: Field) -> Field:
    """The same units filled with what their labels say."""
    return replace(field, nameplates=tuple(replace(plate, filled_with=None) for plate in field.nameplates))


def with_rating(facts: UnitFacts, rated_load_amps: float) -> UnitFacts:
    """The facts with the amps its nameplate would state."""
    return replace(facts, rated_load_amps=rated_load_amps)


def _refrigerant(names: Sequence[str], chance: np.random.Generator, style: Style) -> Refrigerant:
    usual = names[:5]
    return find(str(chance.choice(usual if chance.random() < style.common else names)))


def _filled(refrigerant: Refrigerant, chance: np.random.Generator, mistaken: bool) -> Refrigerant | None:
    if not mistaken:
        return None
    bottles = [find(name) for name in BOTTLES]
    unlike = [bottle for bottle in bottles if abs(vapour_step(refrigerant, bottle)) > _OTHER_ENOUGH]
    return unlike[chance.integers(len(unlike))]


def _comfort(kind: Kind, mode: Mode, is_fixed: bool, chance: np.random.Generator, style: Style, mistaken: bool) -> _Drawn:
    uniform, normal = chance.uniform, chance.normal
    heating = mode is Mode.HEATING
    metering = Metering.ORIFICE if is_fixed else Metering.EXV if chance.random() < 0.2 else Metering.TXV
    if is_fixed and chance.random() < 0.1:
        metering = Metering.CAPILLARY
    refrigerant = _refrigerant(COMFORT, chance, style)
    capacity_w = float(chance.choice([18, 24, 30, 36, 42, 48, 60, 90, 120])) * 1000 * BTU_PER_HOUR_W
    seer = _SEERS[chance.integers(4)]
    split_f = split_by_seer_f(seer)
    # No label asks for more than its own condenser can give.
    label_f = min(float(chance.choice([7, 8, 9, 10, 11, 12, 13])), float(int(0.65 * split_f)))
    told = chance.random() < style.told
    superheat_f = (10.5 if is_fixed else 9.5) + normal(0, 1.0)
    if heating:
        td_f, split_f, superheat_f = 12.5 + normal(0, 1.2), _HEATING_SPLIT_F[is_fixed] + normal(0, 2.5), 7.0 + normal(0, 1.0)
        subcooling_f = min(max(12.5 + normal(0, 1.5), 7.0), 0.75 * split_f)
    else:
        td_f, split_f = 35.0 + normal(0, 1.5), split_f + normal(0, 1.5)
        subcooling_f = min(12.0 + normal(0, 1.8), 0.75 * split_f) if is_fixed else label_f
    plate = Nameplate(
        kind,
        refrigerant,
        mode,
        metering,
        False,
        capacity_w,
        td_f * FAHRENHEIT_K,
        split_f * FAHRENHEIT_K,
        superheat_f * FAHRENHEIT_K,
        subcooling_f * FAHRENHEIT_K,
        filled_with=_filled(refrigerant, chance, mistaken),
    )
    fact = {
        "kind": kind,
        "refrigerant": refrigerant,
        "mode": mode,
        "metering": metering,
        "nominal_capacity_w": capacity_w,
        "seer": seer if chance.random() < style.told else None,
        "target_subcooling_k": label_f * FAHRENHEIT_K if told and not (is_fixed or heating) else None,
    }
    if heating:
        outdoor_f, return_f = uniform(17, 60), uniform(64, 76)
        wet_f = return_f - uniform(8, 14)
    else:
        outdoor_f, return_f = uniform(65, 112), uniform(69, 84)
        wet_f = return_f - uniform(5, 16)
    return plate, fact, (to_kelvin(outdoor_f), to_kelvin(return_f), to_kelvin(wet_f))


def _walk_in(kind: Kind, is_fixed: bool, chance: np.random.Generator, style: Style, mistaken: bool) -> _Drawn:
    uniform, normal = chance.uniform, chance.normal
    freezer = kind is Kind.WALK_IN_FREEZER
    metering = Metering.CAPILLARY if is_fixed else Metering.EXV if chance.random() < 0.15 else Metering.TXV
    refrigerant = _refrigerant(LOW if freezer else MEDIUM, chance, style)
    evaporator = list(EvaporatorClass)[chance.integers(3)]
    if freezer:
        box_f, td_f, split_f, superheat_f = uniform(-10, 0), 7.0 + normal(0, 0.7), uniform(11, 16), 4.2 + normal(0, 0.6)
    else:
        box_f, td_f = uniform(34, 41), _WALK_IN_TD_F[evaporator] + normal(0, 0.8)
        split_f, superheat_f = uniform(17, 25), 6.0 + normal(0, 0.7)
    superheat_f -= 0.0 if is_fixed else _SET_BELOW_F
    receiver = not is_fixed
    controls = list(HeadPressureControl) if receiver else [HeadPressureControl.NONE]
    control = controls[chance.integers(len(controls))]
    capacity_w = uniform(1500, 12000)
    subcooling_f = uniform(3.5, 6.5) if receiver else uniform(5, 9)
    plate = Nameplate(
        kind,
        refrigerant,
        Mode.COOLING,
        metering,
        receiver,
        capacity_w,
        td_f * FAHRENHEIT_K,
        split_f * FAHRENHEIT_K,
        superheat_f * FAHRENHEIT_K,
        subcooling_f * FAHRENHEIT_K,
        to_kelvin(box_f),
        control,
        _filled(refrigerant, chance, mistaken),
    )
    known = chance.random() < style.told
    fact = {
        "kind": kind,
        "refrigerant": refrigerant,
        "metering": metering,
        "receiver": receiver,
        "nominal_capacity_w": capacity_w,
        "design_box_k": to_kelvin(box_f) if known else None,
        "evaporator_class": evaporator if known and not freezer else None,
        "head_pressure_control": control,
    }
    entering_f = box_f + uniform(-1, 7)
    outdoor_f = uniform(25 if control is not HeadPressureControl.NONE else 55, 110)
    return plate, fact, (to_kelvin(outdoor_f), to_kelvin(entering_f), to_kelvin(entering_f - uniform(0.3, 2.0)))
