"""One reading sheet in SI: the unit, what was read and seen, and when. What `assess` takes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import combinations
from math import hypot

from dry_gauge.core.errors import ImpossibleAir
from dry_gauge.core.quantities import FAHRENHEIT_K, Measured, atmospheric_pressure_pa, to_kelvin
from dry_gauge.core.refrigerants.catalogue import Refrigerant
from dry_gauge.core.refrigerants.saturation import Saturation, saturation_of
from dry_gauge.core.visit.complaints import Complaint
from dry_gauge.core.vocabulary import (
    QUANTITIES,
    CompressorControl,
    EvaporatorClass,
    Fault,
    HeadPressureControl,
    Kind,
    Metering,
    Mode,
    School,
    State,
)

ASSUMED_COOLER_BOX_K = to_kelvin(37)
ASSUMED_FREEZER_BOX_K = to_kelvin(-5)
CRITICAL_CHARGE_KG = 0.5  # docs/rules.md, R25


@dataclass(frozen=True, slots=True)
class ChartRow:
    """One line of the maker's chart: at these airs, these pressures [K, Pa absolute] and this superheat [K].

    Charts for cooling mostly give the indoor air's wet bulb, those for heating its dry bulb.
    """

    outdoor_k: float
    indoor_k: float
    suction_pa: float | None = None
    head_pa: float | None = None
    superheat_k: float | None = None
    by_wet_bulb: bool = False


@dataclass(frozen=True, slots=True)
class CircuitFacts:
    """What one more circuit has of its own; None is as the unit's first."""

    number: int
    refrigerant: Refrigerant | None = None
    label_charge_kg: float | None = None


@dataclass(frozen=True, slots=True)
class UnitFacts:
    """What is known of the unit; None is not known. A `target_*` figure comes from its label and wins.

    `high_pressure_cutout_pa` and `low_pressure_cutout_pa` are absolute [Pa]; `discharge_limit_k` is what its maker allows
    on the discharge line; `head_setting_k` the condensing temperature that a head-pressure control holds. [K]
    """

    kind: Kind
    refrigerant: Refrigerant
    mode: Mode = Mode.COOLING
    metering: Metering | None = None
    receiver: bool = False
    nominal_capacity_w: float | None = None
    seer: float | None = None
    label_charge_kg: float | None = None
    target_subcooling_k: float | None = None
    target_superheat_k: float | None = None
    rated_load_amps: float | None = None
    design_box_k: float | None = None
    evaporator_class: EvaporatorClass | None = None
    head_pressure_control: HeadPressureControl | None = None
    elevation_m: float | None = None
    compressor_control: CompressorControl | None = None
    high_pressure_cutout_pa: float | None = None
    low_pressure_cutout_pa: float | None = None
    discharge_limit_k: float | None = None
    head_setting_k: float | None = None
    maker_chart: tuple[ChartRow, ...] = ()
    more_circuits: tuple[CircuitFacts, ...] = ()

    def of_circuit(self, number: int) -> UnitFacts:
        """The same with what that circuit has of its own; no other circuit's charge stands in for one that is not known."""
        own = next((one for one in self.more_circuits if one.number == number), None)
        if own is None:
            return self
        return replace(self, refrigerant=own.refrigerant or self.refrigerant, label_charge_kg=own.label_charge_kg)

    @property
    def refrigerants(self) -> tuple[Refrigerant, ...]:
        """What its circuits hold, the first circuit's first."""
        return tuple(dict.fromkeys((self.refrigerant, *(one.refrigerant or self.refrigerant for one in self.more_circuits))))

    def holding(self, refrigerant: Refrigerant | None) -> Refrigerant:
        """That refrigerant where one of its circuits holds it, else the first circuit's."""
        return refrigerant if refrigerant in self.refrigerants and refrigerant is not None else self.refrigerant

    @property
    def smallest_label_charge_kg(self) -> float | None:
        """The smallest charge of its circuits: what is lost is counted against it where nobody says from which. [kg]"""
        known = [self.label_charge_kg, *(one.label_charge_kg for one in self.more_circuits)]
        return min((one for one in known if one is not None), default=None)

    @property
    def modulates(self) -> bool:
        """Whether its compressor has no state of its own until it is held in one."""
        return self.compressor_control is not None and self.compressor_control.modulates

    @property
    def charge_is_critical(self) -> bool:
        """Whether hoses would hold a tenth of the charge: a capillary, or a label below 500 g."""
        return self.metering is Metering.CAPILLARY or (
            self.label_charge_kg is not None and self.label_charge_kg < CRITICAL_CHARGE_KG
        )

    @property
    def atmosphere_pa(self) -> float:
        """Local barometric pressure; sea level where the elevation is not known. [Pa]"""
        return atmospheric_pressure_pa(self.elevation_m or 0.0)

    @property
    def saturation(self) -> Saturation:
        """Its refrigerant's saturation curves."""
        return saturation_of(self.refrigerant)

    @property
    def heating(self) -> bool:
        """Whether the outdoor coil is the evaporator."""
        return self.mode is Mode.HEATING

    @property
    def box_target_k(self) -> float:
        """Design box temperature, or the usual one for its kind. [K]"""
        usual = ASSUMED_FREEZER_BOX_K if self.kind is Kind.WALK_IN_FREEZER else ASSUMED_COOLER_BOX_K
        return usual if self.design_box_k is None else self.design_box_k


@dataclass(frozen=True, slots=True)
class Reading:
    """One number from one instrument, in SI; `half_width_si` is its 95 % accuracy."""

    quantity: str
    value_si: float
    half_width_si: float
    minutes: float | None = None
    circuit: int | None = None
    stage: str | None = None
    place: str | None = None
    instrument: str = ""
    """Its name, where it has one: on another day the same one is wrong in much the same way."""


@dataclass(frozen=True, slots=True)
class Observation:
    """One answer to something looked at."""

    what: str
    state: State
    circuit: int | None = None


@dataclass(frozen=True, slots=True, eq=False)  # compared as the thing it is: it is a key, and long
class EarlierSet:
    """What the same unit showed on another day; `proven` if it was found or left right then.

    One from before a repair that changes the unit (coil, compressor, metering device, blower, refrigerant) says
    `before_change`. One of another unit of the same model says which: `of_unit`.
    """

    date: str
    proven: bool
    readings: tuple[Reading, ...] = ()
    observations: tuple[Observation, ...] = ()
    before_change: bool = False
    of_unit: str = ""


@dataclass(frozen=True, slots=True)
class Sheet:
    """A unit with its readings and observations."""

    unit: UnitFacts
    readings: tuple[Reading, ...] = ()
    observations: tuple[Observation, ...] = ()
    superheat_school: School = School.COMMON
    minutes_running: float | None = None
    minutes_since_change: float | None = None
    minutes_since_charge: float | None = None
    minutes_since_defrost: float | None = None
    complaints: tuple[Complaint, ...] = ()
    earlier: tuple[EarlierSet, ...] = ()
    out_of_reach: tuple[str, ...] = ()
    """Names of checks that cannot be made here."""
    part_odds: tuple[tuple[Fault, float], ...] = ()
    """By what factor a part that was looked at moves the odds of causes."""
    is_timed: bool = False
    """Whether every reading's minute is when it was taken, as on a visit: one that was taken too early is read again."""

    @property
    def circuits(self) -> tuple[int, ...]:
        """Numbers of the circuits that any reading or observation names, lowest first; (1,) if none does."""
        named = {
            reading.circuit or 1
            for reading in self.readings
            if reading.circuit is not None or not QUANTITIES[reading.quantity].shared
        } | {seen.circuit for seen in self.observations if seen.circuit is not None}
        return tuple(sorted(named)) or (1,)

    def circuit(self, number: int) -> CircuitView:
        """What belongs to one circuit in one stage: its own readings and those that all circuits share.

        Of several stages the latest that has all a verdict needs; where none has, the latest, and `stages` names them all.
        """
        own = [one for one in self.readings if QUANTITIES[one.quantity].shared or (one.circuit or 1) == number]
        # A later answer replaces an earlier one; one that names the circuit says more than one that does not.
        states: dict[str, State] = {}
        for circuit in (None, number):
            states |= {seen.what: seen.state for seen in self.observations if seen.circuit == circuit}
        stages = _stages(own)
        if not stages:
            return self._in_stage(number, own, states, None)
        one_stage = len(stages) == 1 and self.unit.compressor_control is not CompressorControl.TWO_STAGE
        views = []
        for stage in stages:
            joined = [
                one for one in own if one.stage == stage or one.quantity in OF_NO_STAGE or (one.stage is None and one_stage)
            ]
            views.append(self._in_stage(number, joined, states, stage))
        enough = [view for view in views if not view.missing_readings]
        return enough[-1] if enough else replace(views[-1], mixed_stages=stages if len(stages) > 1 else ())

    def _in_stage(self, number: int, readings: Iterable[Reading], states: Mapping[str, State], stage: str | None) -> CircuitView:
        by_quantity: dict[str, list[Reading]] = {}
        for reading in readings:
            by_quantity.setdefault(reading.quantity, []).append(reading)
        measured: dict[str, Measured] = {}
        instruments: dict[str, str] = {}
        disagreeing: list[tuple[Reading, ...]] = []
        for name, listed in by_quantity.items():
            latest = _latest(listed)
            if _disagree(latest):
                disagreeing.append(latest)
            else:
                measured[name] = _mean(name, latest)
                if len(latest) == 1 and latest[0].instrument:
                    instruments[name] = latest[0].instrument.casefold()
        history = {name: tuple(listed) for name, listed in by_quantity.items() if len(listed) > 1}
        minutes = {
            name: max((one.minutes for one in by_quantity[name] if one.minutes is not None), default=None) for name in measured
        }
        return CircuitView(self, number, measured, states, tuple(disagreeing), stage, (), history, instruments, minutes)


# Air, product and a unit that stands are of no stage: they join whichever is judged.
OF_NO_STAGE = frozenset(
    {
        "outdoor_air_temp",
        "return_air_temp",
        "return_air_wet_bulb",
        "return_air_rh",
        "mixed_air_temp",
        "box_air_temp",
        "box_rh",
        "product_temp",
        "space_temp",
        "standing_pressure",
        "equalized_ambient_temp",
    }
)


def _stages(readings: Iterable[Reading]) -> tuple[str, ...]:
    """Stages that were read in, the latest last."""
    last: dict[str, float] = {}
    for i, reading in enumerate(readings):
        if reading.stage is not None:
            at = i * 1e-6 if reading.minutes is None else reading.minutes
            last[reading.stage] = max(last.get(reading.stage, 0.0), at)
    return tuple(sorted(last, key=lambda stage: last[stage]))


def _latest(readings: list[Reading]) -> tuple[Reading, ...]:
    """The readings that speak for now: of the latest minute, with those whose minute nobody wrote down."""
    minutes = [reading.minutes for reading in readings if reading.minutes is not None]
    last = max(minutes, default=None)
    return tuple(reading for reading in readings if reading.minutes is None or reading.minutes == last)


def _disagree(readings: Iterable[Reading]) -> bool:
    return any(
        abs(one.value_si - other.value_si) > hypot(one.half_width_si, other.half_width_si)
        for one, other in combinations(readings, 2)
    )


def _mean(name: str, readings: tuple[Reading, ...]) -> Measured:
    """Two instruments that agree are averaged; their common accuracy is not claimed to be better than the best."""
    value = sum(reading.value_si for reading in readings) / len(readings)
    return Measured.reading(name, value, min(reading.half_width_si for reading in readings))


@dataclass(frozen=True)  # without slots: its unit is worked out once, and asked for a hundred times a judgement
class CircuitView:
    """One circuit as it stands: a number per quantity, an answer per observation."""

    sheet: Sheet
    number: int
    measured: Mapping[str, Measured]
    states: Mapping[str, State] = field(default_factory=dict)
    disagreeing: tuple[tuple[Reading, ...], ...] = ()
    stage: str | None = None
    mixed_stages: tuple[str, ...] = ()
    """Stages that were read in, where none of them has all that a verdict needs."""
    history: Mapping[str, tuple[Reading, ...]] = field(default_factory=dict)
    """Every reading of the quantities that were read more than once, in this stage."""
    instruments: Mapping[str, str] = field(default_factory=dict)
    """What reads a quantity, where it is one instrument and has a name."""
    minutes: Mapping[str, float | None] = field(default_factory=dict)
    """At which minute from the start each quantity was read last, as far as that was written down."""

    @cached_property
    def unit(self) -> UnitFacts:
        """The unit it belongs to, with what this circuit has of its own."""
        return self.sheet.unit.of_circuit(self.number)

    @property
    def is_read(self) -> bool:
        """Whether anything of its own was read: air belongs to every circuit."""
        return any(not QUANTITIES[name].shared for name in self.measured)

    def get(self, *names: str) -> Measured | None:
        """The first of these quantities that was read."""
        for name in names:
            found = self.measured.get(name)
            if found is not None:
                return found
        return None

    def seen(self, what: str) -> bool:
        """Whether that was answered yes."""
        return self.states.get(what) is State.YES

    def in_table(self, *names: str) -> Measured | None:
        """The first of these pressures that was read, where its refrigerant's table covers it."""
        pressure = self.get(*names)
        return pressure if pressure and self.unit.saturation.covers_pressure(pressure.value) else None

    @property
    def low_stage(self) -> bool:
        """Whether it was read in another than its full stage."""
        return (self.stage is not None and self.stage.lower() in ("low", "1", "first")) or self.denied("stage_held")

    @property
    def known_low_stage(self) -> bool:
        """Whether it was read in the lower stage of a comfort unit, held there: what a sound one shows is known then."""
        return self.low_stage and not self.denied("stage_held") and not self.unit.kind.is_walk_in

    @property
    def is_of_either_stage(self) -> bool:
        """Whether its card says two stages and nobody said in which it was read."""
        return self.unit.compressor_control is CompressorControl.TWO_STAGE and self.stage is None and not self.seen("stage_held")

    def denied(self, what: str) -> bool:
        """Whether that was answered no."""
        return self.states.get(what) is State.NO

    @property
    def entering_indoor_air(self) -> Measured | None:
        """Air entering the indoor coil: the box's, or return air, with what comes in from outdoors where that was read (R83)."""
        return self.get("box_air_temp" if self.unit.kind.is_walk_in else "mixed_air_temp", "return_air_temp")

    @property
    def entering_evaporator_air(self) -> Measured | None:
        """Air entering the evaporator, by mode."""
        return self.get("outdoor_air_temp") if self.unit.heating else self.entering_indoor_air

    @property
    def entering_condenser_air(self) -> Measured | None:
        """Air entering the condenser, by mode."""
        return self.entering_indoor_air if self.unit.heating else self.get("outdoor_air_temp")

    @property
    def high_pressure(self) -> Measured | None:
        """What condensing values are taken from: the liquid port, else the discharge port."""
        return self.get("liquid_pressure", "discharge_pressure")

    @property
    def missing_readings(self) -> tuple[str, ...]:
        """Quantities still wanted before anything may be judged, by the name that would be read first."""
        unit = self.unit
        entering = "box_air_temp" if unit.kind.is_walk_in else "return_air_temp"
        wanted = {
            "suction_pressure": self.get("suction_pressure"),
            "suction_line_temp": self.get("suction_line_temp", "coil_outlet_temp", "compressor_suction_temp"),
            "liquid_pressure": self.high_pressure,
            "liquid_line_temp": self.get("liquid_line_temp"),
            "outdoor_air_temp": self.get("outdoor_air_temp"),
            entering: self.entering_indoor_air,
        }
        if unit.charge_is_critical:  # hoses would hold a tenth of such a charge: amps stand in for what is not read
            gauges = [wanted.pop("suction_pressure"), wanted.pop("liquid_pressure")]
            if None in gauges:
                wanted["compressor_amps"] = self.get("compressor_amps")
        return tuple(name for name, read in wanted.items() if read is None)

    @property
    def discharge_port_only(self) -> bool:
        """Whether the discharge port has to stand in for the liquid port."""
        return "liquid_pressure" not in self.measured and "discharge_pressure" in self.measured


MOST_WET_BULB_ABOVE_K = 5 * FAHRENHEIT_K
"""A wet bulb that far above its dry bulb is two probes changed over, not an error of either."""
MOIST_PAIRS = (("Return", "return_air_temp", "return_air_wet_bulb"), ("Supply", "supply_air_temp", "supply_air_wet_bulb"))


def check_air(sheet: Sheet, seen: CircuitView | None = None) -> None:
    """Refuse moist air that cannot exist; what is within reach of a probe's error is only asked about.

    `seen` is any circuit of the sheet, where one was made already: they share their air.

    Raises
    ------
    ImpossibleAir
        For a wet bulb more than `MOST_WET_BULB_ABOVE_K` above its dry bulb.
    """
    view = seen or sheet.circuit(sheet.circuits[0])
    for place, dry_name, wet_name in MOIST_PAIRS:
        dry, wet = view.get(dry_name), view.get(wet_name)
        if dry and wet and wet.value - dry.value > MOST_WET_BULB_ABOVE_K:
            at = max(i for i, reading in enumerate(sheet.readings) if reading.quantity == wet_name)
            raise ImpossibleAir(
                f"{place} wet bulb is above the dry bulb, which no air can be: check which probe is which, and the sock.",
                f"readings[{at}].value",
                wet_name,
            )
