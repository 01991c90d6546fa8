"""Power and motors: supplies as they were measured, capacitors, strip heat, machines, motor tests, what a compressor shows."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Literal

from pydantic import Field

from dry_gauge.core.electrical.capacitor import USUAL_TOLERANCE, CapacitorVerdict, judge_capacitor, looks_like_dual
from dry_gauge.core.electrical.compressor_evidence import BY_NAME
from dry_gauge.core.electrical.motor import MATCH_LABELS, horsepower
from dry_gauge.core.electrical.power import StripHeat, strip_heat
from dry_gauge.core.electrical.supply import LEGS, PAIRS, Supply, judge_supply, pair_words
from dry_gauge.core.errors import Refused
from dry_gauge.core.words import Reader
from dry_gauge.notebook.fields import Circuit, FewWords, SomeWords, of_circuit
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, keeping, kept
from dry_gauge.notebook.metered import Metered
from dry_gauge.notebook.subjects.actions import Actions, ActionSort
from dry_gauge.notebook.subjects.agenda import RETURNS, Agenda
from dry_gauge.notebook.subjects.ledger import Ledger

Volts = Annotated[float, Field(allow_inf_nan=False, ge=0, le=700)]
Amps = Annotated[float, Field(allow_inf_nan=False, ge=0, le=2000)]
Ohms = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1e10)]
Microfarads = Annotated[float, Field(allow_inf_nan=False, gt=0, le=500)]
_CONTROL_V = 40.0  # below it volts of a supply are the control circuit's


class SupplyBody(Metered):
    """Volts of a supply, by pair and to ground; under load or with nothing running. `drops` by name of pole or fuse."""

    kind: Literal["supply"] = "supply"
    loaded: bool = True
    three_phase: bool = False
    label_v: Volts | None = None
    pairs: dict[str, Volts] = {}
    ground: dict[str, Volts] = {}
    drops: dict[str, Volts] = {}


class MachineAmpsBody(Metered):
    """Amps of one machine by leg, at the volts found, against its plate."""

    kind: Literal["machine_amps"] = "machine_amps"
    machine: SomeWords
    legs: dict[str, Amps]
    rated: Annotated[float, Field(allow_inf_nan=False, gt=0, le=2000)] | None = None
    volts: Volts | None = None


class CapacitorBody(Metered):
    """One section of a run capacitor: on the bench, discharged, or under load."""

    kind: Literal["capacitor"] = "capacitor"
    machine: SomeWords
    rated_uf: Microfarads
    tolerance: Annotated[float, Field(gt=0, le=0.5)] = USUAL_TOLERANCE
    bench_uf: Annotated[float, Field(allow_inf_nan=False, ge=0, le=1000)] | None = None
    amps: Amps | None = None
    volts: Volts | None = None


class PowerBody(Metered):
    """Watts of a machine, with volts and amps of one leg at the same time."""

    kind: Literal["power"] = "power"
    machine: SomeWords
    watts: Annotated[float, Field(allow_inf_nan=False, gt=0, le=2_000_000)]
    volts: Annotated[float, Field(allow_inf_nan=False, gt=0, le=700)]
    amps: Annotated[float, Field(allow_inf_nan=False, gt=0, le=2000)]
    three_phase: bool = False


class StripHeatBody(Metered):
    """Electric heat, all of it called: amps of the whole, and what the blower draws of them."""

    kind: Literal["strip_heat"] = "strip_heat"
    amps: Amps
    blower_amps: Amps = 0.0
    volts: Volts
    installed_kw: Annotated[float, Field(allow_inf_nan=False, gt=0, le=500)]
    installed_v: Volts = 240.0
    three_phase: bool = False
    steps: Annotated[tuple[Amps, ...], Field(max_length=12)] = ()
    """Amps of the whole after each step, in the order in which they came in."""


class MotorTestBody(Body):
    """A motor that is off: ohms by pair of terminals (none for an open one), to ground, spun by hand."""

    kind: Literal["motor_test"] = "motor_test"
    machine: SomeWords
    three_phase: bool = False
    ohms: tuple[Ohms | None, ...] = ()
    ground_ohm: Ohms | None = None
    spins: Literal["", "free", "stiff", "seized", "loose"] = ""
    wires_off: bool = False


class MotorMatchBody(Body):
    """A motor's plate against the one that is to replace it, line by line as written."""

    kind: Literal["motor_match"] = "motor_match"
    machine: SomeWords
    old: dict[str, FewWords]
    new: dict[str, FewWords]


class CompressorLineBody(Body):
    """One line of the evidence about a compressor."""

    kind: Literal["compressor_line"] = "compressor_line"
    line: FewWords
    answer: FewWords
    circuit: Circuit | None = None


class Electrical(Part):
    """The latest of each: supplies by state, the rest by machine, compressor lines by circuit and name."""

    supplies: dict[str, Kept[SupplyBody]] = {}
    amps: dict[str, Kept[MachineAmpsBody]] = {}
    capacitors: dict[str, Kept[CapacitorBody]] = {}
    powers: dict[str, Kept[PowerBody]] = {}
    strips: Kept[StripHeatBody] | None = None
    motors: dict[str, Kept[MotorTestBody]] = {}
    matches: dict[str, Kept[MotorMatchBody]] = {}
    lines: dict[str, Kept[CompressorLineBody]] = {}

    @property
    def touched(self) -> int:
        """How many things were measured."""
        listed = (self.supplies, self.amps, self.capacitors, self.powers, self.motors, self.matches, self.lines)
        return sum(len(one) for one in listed) + (self.strips is not None)

    @property
    def supply_read(self) -> Kept[SupplyBody] | None:
        """The supply that counts: under load, unless it was read open since and nothing may run on that; else open."""
        loaded, unloaded = self.supplies.get("loaded"), self.supplies.get("open")
        if loaded is None or unloaded is None:
            return loaded or unloaded
        return unloaded if unloaded.at > loaded.at and _stops(judged_supply(unloaded.body)) else loaded

    @property
    def supply(self) -> Supply | None:
        """What that supply says; None where none was read."""
        read, unloaded = self.supply_read, self.supplies.get("open")
        if read is None:
            return None
        return judged_supply(read.body, unloaded.body.pairs if unloaded and read.body.loaded else None)

    @property
    def unfit(self) -> Kept[SupplyBody] | None:
        """The supply on which nothing may run, as it was read; None where none was, or where it may."""
        return self.supply_read if _stops(self.supply) else None

    def of_compressor(self, circuit: int) -> dict[str, str]:
        """What is known of a circuit's compressor, by line."""
        return {one.body.line: one.body.answer for one in self.lines.values() if (one.body.circuit or 1) == circuit}


def judged_supply(body: SupplyBody, open_pairs: Mapping[str, float] | None = None) -> Supply:
    """What one reading of the supply says, beside its pairs with nothing running where those are known."""
    return judge_supply(
        body.pairs, body.ground, three_phase=body.three_phase, label_v=body.label_v, open_pairs=open_pairs, drops_v=body.drops
    )


def _stops(supply: Supply | None) -> bool:
    return supply is not None and any(one.stops for one in supply.findings)


def verdict_of(body: CapacitorBody) -> CapacitorVerdict:
    """How a capacitor's section stands."""
    return judge_capacitor(body.rated_uf, body.bench_uf, body.amps, body.volts, body.tolerance)


def heat_of(body: StripHeatBody) -> StripHeat:
    """What electric heat gives."""
    return strip_heat(body.amps, body.blower_amps, body.volts, body.installed_kw, body.installed_v, three_phase=body.three_phase)


# -- what is refused --------------------------------------------------------------------


def _supply_checked(case: Case[SupplyBody]) -> None:
    body = case.body
    if not body.pairs and not body.ground:
        raise Refused("Type at least one pair, such as L1-L2.", "l1_l2")
    unknown = (body.pairs.keys() - set(PAIRS)) | (body.ground.keys() - set(LEGS))
    if unknown:
        raise Refused("A supply has the legs L1, L2 and L3.", "l1_l2")
    if not body.three_phase and len(body.pairs) > 1:
        raise Refused("One phase has one pair, L1-L2. Three phases? Tick it.", "l2_l3")
    most = max([*body.pairs.values(), *body.ground.values()])
    if 0.0 < most < _CONTROL_V:
        raise Refused(f"{most:g} V is a control circuit's, not the supply's. Which two points?", "l1_l2")


def _amps_checked(case: Case[MachineAmpsBody]) -> None:
    legs = case.body.legs
    if not legs or legs.keys() - set(LEGS):
        raise Refused("Type the amps of one leg at least, clamp around one wire.", "l1")


def _capacitor_checked(case: Case[CapacitorBody]) -> None:
    body = case.body
    dual = looks_like_dual(body.rated_uf)
    if dual is not None:
        large, small = dual
        words = f"{body.rated_uf:g} µF: is it {large:g}/{small:g}? Write each section by itself, {large:g} first."
        raise Refused(words, "rated_uf")
    if body.bench_uf is None and body.amps is None:
        raise Refused("Type what it measures: on the bench, or amps and volts under load.", "bench_uf")
    if body.amps is not None and not body.volts:
        raise Refused("Amps need the volts across this section beside them.", "volts")


def _strip_checked(case: Case[StripHeatBody]) -> None:
    try:
        heat_of(case.body)
    except ValueError as error:
        raise Refused(str(error), "blower_amps" if "blower" in str(error) else "volts") from None


def _motor_checked(case: Case[MotorTestBody]) -> None:
    body = case.body
    if not body.ohms and body.ground_ohm is None and not body.spins:
        raise Refused("Type ohms, ohms to ground, or how it spins.", "ohm_1")
    if (body.ohms or body.ground_ohm is not None) and not body.wires_off:
        raise Refused("Ohms with wires on read the rest of the circuit as well. Wires off? Tick it.", "wires_off")


def _match_checked(case: Case[MotorMatchBody]) -> None:
    body = case.body
    if not any(body.old.values()) and not any(body.new.values()):
        raise Refused("Write what the old plate says, and the new one.", "old_hp")
    if (body.old.keys() | body.new.keys()) - MATCH_LABELS.keys():
        raise Refused("There is no such line on a motor's plate.", "old_hp")
    for side, plate in (("old", body.old), ("new", body.new)):
        if plate.get("hp"):
            try:
                horsepower(plate["hp"])
            except ValueError as error:
                raise Refused(str(error), f"{side}_hp") from None


def _line_checked(case: Case[CompressorLineBody]) -> None:
    line = BY_NAME.get(case.body.line)
    if line is None or case.body.answer not in line.answers:
        raise Refused("Choose one of the answers.", "answer")


# -- fold --------------------------------------------------------------------------------


def _heated(visit: VisitState, entry: Entry, _: StripHeatBody) -> VisitState:
    return visit.changing(Electrical, strips=Kept[StripHeatBody](**kept(entry)))


def _machine(body: MachineAmpsBody | CapacitorBody | PowerBody | MotorTestBody | MotorMatchBody) -> str:
    return body.machine.casefold()


# -- what stays open ------------------------------------------------------------------------

_MAY_MEND_A_SUPPLY = frozenset({ActionSort.ELECTRICAL_PART, ActionSort.OTHER})


def must_stay_off(visit: VisitState) -> bool:
    """Whether nothing may run on the supply: as it was read last, unless something was done since that may have mended it."""
    unfit = visit[Electrical].unfit
    done = visit[Actions].done.values()
    return unfit is not None and not any(one.at >= unfit.at and one.body.sort in _MAY_MEND_A_SUPPLY for one in done)


def _supply_open(visit: VisitState) -> list[Obstacle]:
    supply, ledger = visit[Electrical].supply, visit[Ledger]
    could_run = must_stay_off(visit) and not (ledger.locked or ledger.red_tags)
    if supply is None or (visit[Agenda].booked(RETURNS) and not could_run):
        return []
    ends = "lock the unit out" if could_run else "book the return"
    return [
        Obstacle("supply", f"{one.phrase.read(Reader())} Read it again, or {ends}.", firm=could_run, weight=Weight.SAFETY)
        for one in supply.findings
        if one.stops
    ]


# -- how it is said -------------------------------------------------------------------------


def _volts(found: dict[str, float], words: str = "") -> str:
    return ", ".join(f"{pair_words(name)}{words} {value:g}" for name, value in found.items())


def _supply_said(body: SupplyBody, _: VisitState) -> tuple[str, str]:
    drops = ", ".join(f"{value:g} across {name}" for name, value in body.drops.items())
    parts = [_volts(body.pairs), _volts(body.ground, " to ground"), drops]
    return f"Supply, {'under load' if body.loaded else 'open'}", "; ".join(filter(None, parts)) + " V" + body.read_with


def _amps_said(body: MachineAmpsBody, _: VisitState) -> tuple[str, str]:
    rated = f" of {body.rated:g}" if body.rated else ""
    return f"Amps, {body.machine}", f"{_volts(body.legs)} A{rated}{body.read_with}"


def _capacitor_said(body: CapacitorBody, _: VisitState) -> tuple[str, str]:
    parts = [
        f"bench {body.bench_uf:g} µF" if body.bench_uf is not None else "",
        f"{body.amps:g} A at {body.volts:g} V" if body.amps is not None and body.volts else "",
    ]
    return f"Capacitor, {body.machine}", f"{body.rated_uf:g} µF; {'; '.join(filter(None, parts))}{body.read_with}"


def _power_said(body: PowerBody, _: VisitState) -> tuple[str, str]:
    phases = ", three phases" if body.three_phase else ""
    return f"Power, {body.machine}", f"{body.watts:g} W at {body.volts:g} V, {body.amps:g} A{phases}{body.read_with}"


def _strip_said(body: StripHeatBody, _: VisitState) -> tuple[str, str]:
    return "Strip heat", f"{body.amps:g} A less {body.blower_amps:g} at {body.volts:g} V{body.read_with}"


def _ohms(value: float | None) -> str:
    return "open" if value is None else f"{value / 1e6:g} megohm" if value >= 1e6 else f"{value:g} ohm"


def _motor_said(body: MotorTestBody, _: VisitState) -> tuple[str, str]:
    parts = [
        ", ".join(map(_ohms, body.ohms)),
        f"{_ohms(body.ground_ohm)} to ground" if body.ground_ohm is not None else "",
        f"spins {body.spins}" if body.spins in ("free", "stiff", "loose") else body.spins,
    ]
    return f"Off-test, {body.machine}", "; ".join(filter(None, parts))


def _match_said(body: MotorMatchBody, _: VisitState) -> tuple[str, str]:
    return f"Match sheet, {body.machine}", f"{body.old.get('hp', '')} against {body.new.get('hp', '')} hp".strip()


def _line_said(body: CompressorLineBody, _: VisitState) -> tuple[str, str]:
    line = BY_NAME.get(body.line)
    answer = line.answers.get(body.answer, (body.answer,))[0] if line else body.answer
    return f"Compressor{of_circuit(body.circuit)}: {body.line.replace('_', ' ')}", answer


KINDS = (
    Kind(SupplyBody, _supply_said, keeping(Electrical, "supplies", lambda body: "loaded" if body.loaded else "open"),
         _supply_checked, leaves_open=_supply_open),
    Kind(MachineAmpsBody, _amps_said, keeping(Electrical, "amps", _machine), _amps_checked),
    Kind(CapacitorBody, _capacitor_said, keeping(Electrical, "capacitors", _machine), _capacitor_checked),
    Kind(PowerBody, _power_said, keeping(Electrical, "powers", _machine)),
    Kind(StripHeatBody, _strip_said, _heated, _strip_checked),
    Kind(MotorTestBody, _motor_said, keeping(Electrical, "motors", _machine), _motor_checked),
    Kind(MotorMatchBody, _match_said, keeping(Electrical, "matches", _machine), _match_checked),
    Kind(CompressorLineBody, _line_said, keeping(Electrical, "lines", lambda body: f"{body.circuit or 1}/{body.line}"),
         _line_checked),
)  # fmt: skip
