"""What a ladder shows, before anyone asks where: rungs, gaps with their bands, and what is missing. Numbers in K."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.quantities import FAHRENHEIT_K, Measured
from dry_gauge.core.sheet import CircuitView
from dry_gauge.core.target import Target, outside, standing

# A glide narrower than this is drawn as one line: nobody could tell the two apart.
VISIBLE_GLIDE_K = 1.5 * FAHRENHEIT_K
# A discharge line further than this above condensing saturation goes above a break in the axis.
BREAK_ABOVE_K = 40 * FAHRENHEIT_K


@dataclass(frozen=True, slots=True)
class Rung:
    """One temperature on the ladder; `bubble_k` is set where a blend's glide shows."""

    name: str
    label: str
    column: str
    temperature_k: float
    from_pressure: bool = False
    bubble_k: float | None = None


@dataclass(frozen=True, slots=True)
class Gap:
    """A distance that is judged: from its base, in its direction (+1 up), beside its target."""

    name: str
    label: str
    side: str
    gutter: str
    base_column: str
    base_k: float
    direction: int
    gap: Derived
    target: Target | None
    own: tuple[float, float] | None = None
    """Between what and what this unit stood on its own sound days, in weather like today's. [K]"""

    @property
    def tip_k(self) -> float:
        """Where the measured gap ends."""
        return self.base_k + self.direction * self.gap.value

    @property
    def band_k(self) -> tuple[float, float] | None:
        """Temperatures between which the tip should land, low first."""
        if self.target is None:
            return None
        ends = (self.base_k + self.direction * self.target.low_k, self.base_k + self.direction * self.target.high_k)
        return min(ends), max(ends)

    @property
    def own_k(self) -> tuple[float, float] | None:
        """Temperatures between which the tip would land on a sound day of this very unit, low first."""
        if self.own is None:
            return None
        ends = (self.base_k + self.direction * self.own[0], self.base_k + self.direction * self.own[1])
        return min(ends), max(ends)

    @property
    def stands(self) -> str:
        """How it stands to its target; ``untargeted`` without one."""
        return standing(self.gap, self.target) if self.target else "untargeted"

    @property
    def off_k(self) -> float:
        """How far outside its band, without sign."""
        return abs(outside(self.gap, self.target)) if self.target else 0.0


@dataclass(frozen=True, slots=True)
class Missing:
    """A reading not taken; `zone_k` is where it would land if its gap were right."""

    label: str
    column: str
    zone_k: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Contents:
    """Everything one ladder shows."""

    rungs: tuple[Rung, ...]
    gaps: tuple[Gap, ...]
    missing: tuple[Missing, ...]
    discharge: Rung | None


def contents_of(circuit: CircuitAssessment) -> Contents:
    """Rungs, gaps and missing readings of one judged circuit."""
    view, derived = circuit.view, circuit.derived
    rungs = [*_air_rungs(view), *_side_rungs(view, derived)]
    discharge = _discharge(view)
    above = None
    if discharge:
        condensing = derived.get("condensing_dew")
        # Without a head pressure nothing says how far it stands from the rest: above the break it squeezes nothing.
        if condensing is None or discharge.temperature_k > condensing.value + BREAK_ABOVE_K:
            above = discharge
        else:
            rungs.append(discharge)
    return Contents(tuple(rungs), tuple(_gaps(circuit)), tuple(_missing(circuit)), above)


def _air_rungs(view: CircuitView) -> list[Rung]:
    entering = view.entering_indoor_air
    labelled: list[tuple[str, str, Measured | None]] = [
        ("outdoor_air_temp", "outdoor", view.get("outdoor_air_temp")),
        ("entering", "box air" if view.unit.kind.is_walk_in else "mixed" if view.get("mixed_air_temp") else "return", entering),
        ("supply_air_temp", "supply", view.get("supply_air_temp")),
    ]
    return [Rung(name, label, "air", measured.value) for name, label, measured in labelled if measured]


def _side_rungs(view: CircuitView, derived: Mapping[str, Derived]) -> list[Rung]:
    rungs = []
    for column, dew_name, bubble_name in (
        ("low", "suction_saturation", "suction_bubble"),
        ("high", "condensing_dew", "condensing_bubble"),
    ):
        if dew_name in derived:
            dew, bubble = derived[dew_name].value, derived[bubble_name].value
            glides = dew - bubble > VISIBLE_GLIDE_K
            at = dew if column == "low" or glides else bubble
            rungs.append(Rung("saturation", "dew" if glides else "saturation", column, at, True, bubble if glides else None))
    for name, label, column in (
        ("suction_line_temp", "suction line", "low"),
        ("coil_outlet_temp", "coil outlet", "low"),
        ("compressor_suction_temp", "compressor in", "low"),
        ("liquid_line_temp", "liquid line", "high"),
    ):
        measured = view.get(name)
        if measured:
            rungs.append(Rung(name, label, column, measured.value))
    return rungs


def _discharge(view: CircuitView) -> Rung | None:
    measured = view.get("discharge_line_temp")
    return Rung("discharge_line_temp", "discharge", "high", measured.value) if measured else None


def _gaps(circuit: CircuitAssessment) -> list[Gap]:
    view, derived, targets = circuit.view, circuit.derived, circuit.targets
    heating = view.unit.heating
    entering, indoor = view.entering_evaporator_air, view.entering_indoor_air
    condenser_air = view.entering_condenser_air
    dew, bubble = derived.get("suction_saturation"), derived.get("condensing_bubble")
    total_shown = "superheat" in derived and derived["superheat"].measured.sources[:1] != ("coil_outlet_temp",)
    rows: list[tuple[str, str, str, str, str, float | None, int]] = [
        (
            "air_split",
            "Air rise" if heating else "Air split",
            "air",
            "split",
            "air",
            indoor.value if indoor else None,
            1 if heating else -1,
        ),
        ("evaporator_td", "Evap. gap", "low", "a", "air", entering.value if entering else None, -1),
        ("coil_superheat", "Coil superheat", "low", "b", "low", dew.value if dew else None, 1),
        (
            "superheat",
            "Superheat",
            "low",
            "b2" if "coil_superheat" in derived else "b",
            "low",
            dew.value if dew and total_shown else None,
            1,
        ),
        ("condenser_split", "Cond. gap", "high", "b", "air", condenser_air.value if condenser_air else None, 1),
        ("subcooling", "Subcooling", "high", "c", "high", bubble.value if bubble else None, -1),
    ]
    return [
        Gap(name, label, side, gutter, column, base, direction, derived[name], targets.get(name), _own(circuit, name))
        for name, label, side, gutter, column, base, direction in rows
        if base is not None and name in derived
    ]


_TWO_SIGMA = 2.0


def _own(circuit: CircuitAssessment, name: str) -> tuple[float, float] | None:
    judgement, own = circuit.judgement, circuit.judgement.baseline
    if own is None or not own.visits or name not in own.used:
        return None
    middle, sigma, _ = judgement.sound(name)
    return middle - _TWO_SIGMA * sigma, middle + _TWO_SIGMA * sigma


def _missing(circuit: CircuitAssessment) -> list[Missing]:
    view, derived, targets = circuit.view, circuit.derived, circuit.targets
    labels = {
        "suction_pressure": ("suction", "low"),
        "suction_line_temp": ("suction line", "low"),
        "liquid_pressure": ("liquid", "high"),
        "liquid_line_temp": ("liquid line", "high"),
        "outdoor_air_temp": ("outdoor", "air"),
        "return_air_temp": ("return", "air"),
        "box_air_temp": ("box air", "air"),
    }
    zones = {
        "suction_line_temp": ("suction_saturation", "superheat", 1),
        "liquid_line_temp": ("condensing_bubble", "subcooling", -1),
    }
    found = []
    for name in (name for name in view.missing_readings if name in labels):  # amps have no rung
        label, column = labels[name]
        zone = None
        if name in zones:
            base_name, gap_name, direction = zones[name]
            base, target = derived.get(base_name), targets.get(gap_name)
            if base and target:
                ends = [base.value + direction * edge for edge in (target.low_k, target.high_k)]
                zone = (min(ends), max(ends))
        found.append(Missing(label, column, zone))
    if view.get("supply_air_temp") is None:
        entering, split = view.entering_indoor_air, targets.get("air_split")
        zone = None
        if entering and split:
            sign = 1 if view.unit.heating else -1
            ends = [entering.value + sign * edge for edge in (split.low_k, split.high_k)]
            zone = (min(ends), max(ends))
        found.append(Missing("supply", "air", zone))
    if view.get("discharge_line_temp") is None:
        found.append(Missing("discharge", "high"))
    return found
