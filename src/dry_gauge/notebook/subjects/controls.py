"""Sensors, economisers, thermostats, metering devices, and wires before they come off."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from dry_gauge.core.controls.economiser import FreeCooling, free_cooling
from dry_gauge.core.controls.metering import metering_odds, orifice_size
from dry_gauge.core.controls.thermistor import CURVES, SensorVerdict, Thermistor, judge_sensor, through
from dry_gauge.core.dimensions import UNITS, as_typed
from dry_gauge.core.errors import Refused
from dry_gauge.core.quantities import FAHRENHEIT_K
from dry_gauge.core.vocabulary import Fault
from dry_gauge.notebook.fields import FROZEN, FewWords, SomeWords
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Part, VisitState, keeping
from dry_gauge.notebook.subjects.ledger import ChangeSort, set_aside

TempUnit = Literal["F", "C"]
Temp = Annotated[float, Field(allow_inf_nan=False, ge=-150, le=500)]
Ohms = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1e9)]


class CurvePoint(BaseModel):
    """One point of a sensor's own curve."""

    model_config = FROZEN
    temp: Temp
    ohms: Ohms


class SensorBody(Body):
    """One sensor: its ohms, a trusted thermometer beside it, and by which curve it is read."""

    kind: Literal["sensor"] = "sensor"
    name: SomeWords
    ohms: Ohms
    temp: Temp | None = None
    temp_unit: TempUnit = "F"
    curve: FewWords = ""
    points: Annotated[tuple[CurvePoint, ...], Field(max_length=3)] = ()
    wire: FewWords = ""
    unplugged: bool = False

    @property
    def judged(self) -> SensorVerdict:
        """How it stands."""
        reference = None if self.temp is None else UNITS[self.temp_unit].to_si(self.temp)
        return judge_sensor(self.by_curve, self.ohms, reference, unplugged=self.unplugged)

    @property
    def by_curve(self) -> Thermistor | None:
        """Its curve: of its own points, or by name; None where it is not known."""
        if self.points:
            return through([(UNITS[self.temp_unit].to_si(one.temp), one.ohms) for one in self.points])
        return CURVES.get(self.curve)


class EconomiserBody(Body):
    """An economiser as it was found: outdoor air, the sensor's letter, its plug, its damper."""

    kind: Literal["economiser"] = "economiser"
    temp: Temp
    temp_unit: TempUnit = "F"
    humidity: Annotated[float, Field(ge=0, le=100)] | None = None
    """Outdoors. [%]"""
    letter: Literal["A", "B", "C", "D"]
    damper: Literal["", "open", "shut"] = ""
    plug: Literal["", "sound", "loose"] = ""

    @property
    def judged(self) -> FreeCooling:
        """What it should do now."""
        outdoor = UNITS[self.temp_unit].to_si(self.temp)
        humidity = None if self.humidity is None else self.humidity / 100
        return free_cooling(
            outdoor, humidity, self.letter, damper_open=None if not self.damper else self.damper == "open", plug=self.plug
        )


class ThermostatBody(Body):
    """How a thermostat stands: what it asks for, what it sees, its differential, its second stage, its schedule."""

    kind: Literal["thermostat"] = "thermostat"
    mode: FewWords = ""
    setpoint: Temp
    space: Temp | None = None
    differential: Annotated[float, Field(allow_inf_nan=False, gt=0, le=30)] | None = None
    temp_unit: TempUnit = "F"
    second_stage: FewWords = ""
    schedule: FewWords = ""


class MeteringBody(Body):
    """A metering device looked at: orifice numbers, bulb, screen, and where debris came from."""

    kind: Literal["metering_check"] = "metering_check"
    orifice_found: FewWords = ""
    orifice_due: FewWords = ""
    """By the outdoor unit's table, for the indoor coil `coil`."""
    coil: FewWords = ""
    bulb: Literal["", "sound", "loose", "bare", "misplaced"] = ""
    screen: Literal["", "clean", "blocked"] = ""
    debris: FewWords = ""


class OrificeRow(BaseModel):
    """The orifice that an outdoor unit asks for at one indoor coil."""

    model_config = FROZEN
    coil: SomeWords
    orifice: SomeWords


class OrificeTableBody(Body):
    """An outdoor model's own table: which orifice at which indoor coil. Kept for the model."""

    kind: Literal["orifice_table"] = "orifice_table"
    rows: Annotated[tuple[OrificeRow, ...], Field(min_length=1, max_length=40)]


class Wire(BaseModel):
    """One wire: where it sat, its colour."""

    model_config = FROZEN
    terminal: FewWords
    colour: FewWords = ""

    @property
    def words(self) -> str:
        """As it is written on the ledger."""
        return f"{self.terminal}{f', {self.colour}' if self.colour else ''}"


class WiresOffBody(Body):
    """Wires or a plug come off: each stands on the ledger until it is back."""

    kind: Literal["wires_off"] = "wires_off"
    of: SomeWords
    wires: Annotated[tuple[Wire, ...], Field(min_length=1, max_length=40)]


class Controls(Part):
    """The latest of each."""

    sensors: dict[str, Kept[SensorBody]] = {}
    economisers: dict[str, Kept[EconomiserBody]] = {}
    thermostats: dict[str, Kept[ThermostatBody]] = {}
    metering: dict[str, Kept[MeteringBody]] = {}
    orifices: dict[str, Kept[OrificeTableBody]] = {}

    @property
    def metering_odds(self) -> tuple[tuple[Fault, float], ...]:
        """By what factor the metering device, as it was seen, moves the odds of causes."""
        found = next(iter(self.metering.values()), None)
        if found is None:
            return ()
        body = found.body
        return tuple(metering_odds(body.orifice_found, body.orifice_due, body.bulb, body.screen).items())


BULB_WORDS = {"sound": "sound", "loose": "loose on its pipe", "bare": "not insulated", "misplaced": "in the wrong place"}


def _wires_off(visit: VisitState, entry: Entry, body: WiresOffBody) -> VisitState:
    for wire in body.wires:
        visit = set_aside(visit, entry, ChangeSort.UNPLUGGED, f"{wire.words} ({body.of})")
    return visit


# -- what is refused --------------------------------------------------------------------


def _sensor_checked(case: Case[SensorBody]) -> None:
    body = case.body
    if body.curve and body.curve not in CURVES and not body.points:
        raise Refused(f"{body.curve!r} is no curve that is kept here. Choose one, or type three points of its own.", "curve")
    if body.points:
        if len(body.points) != 3:
            raise Refused("A curve of its own needs three points.", "points")
        body.by_curve  # noqa: B018  (raises for points that no thermistor shows)


def _thermostat_checked(case: Case[ThermostatBody]) -> None:
    body = case.body
    limit = 15 if body.temp_unit == "F" else 15 * FAHRENHEIT_K
    if body.differential is not None and body.differential > limit:
        raise Refused("A differential is a few degrees, not the setting.", "differential")


def _metering_checked(case: Case[MeteringBody]) -> None:
    body = case.body
    if not (body.orifice_found or body.bulb or body.screen or body.debris):
        raise Refused("Say what was found: the orifice's number, its bulb, its screen.", "orifice_found")


def _orifices_checked(case: Case[OrificeTableBody]) -> None:
    rows = case.body.rows
    for row in rows:
        if orifice_size(row.orifice) is None:
            raise Refused(f"{row.orifice!r} is no orifice's number. A line has coil and number, such as CK36 .063.", "rows")
    if len({row.coil.casefold() for row in rows}) < len(rows):
        raise Refused("One coil stands there twice: which number is its own?", "rows")


def _wires_checked(case: Case[WiresOffBody]) -> None:
    words = [wire.words for wire in case.body.wires]
    if any(not wire.terminal for wire in case.body.wires):
        raise Refused("Each wire needs its terminal, such as: Y2 yellow.", "wires")
    if len(set(words)) < len(words):
        raise Refused("Two wires read the same: say more of one, a number or a stripe.", "wires")


# -- how it is said -------------------------------------------------------------------------


def _sensor_said(body: SensorBody, _: VisitState) -> tuple[str, str]:
    temp = f"at {as_typed(body.temp, body.temp_unit)}" if body.temp is not None else ""
    return f"Sensor, {body.name}", ", ".join(filter(None, (f"{body.ohms:g} ohm", temp, body.wire)))


def _economiser_said(body: EconomiserBody, _: VisitState) -> tuple[str, str]:
    damper = f"damper {body.damper}" if body.damper else ""
    outdoors = f"outdoors {as_typed(body.temp, body.temp_unit)}"
    return "Economizer", ", ".join(filter(None, (outdoors, f"letter {body.letter}", damper)))


def _thermostat_said(body: ThermostatBody, _: VisitState) -> tuple[str, str]:
    space = f"sees {body.space:g}" if body.space is not None else ""
    differential = f"differential {body.differential:g}" if body.differential else ""
    set_to = f"set {as_typed(body.setpoint, body.temp_unit)}"
    return "Thermostat", ", ".join(filter(None, (body.mode, set_to, space, differential, body.second_stage, body.schedule)))


def _metering_said(body: MeteringBody, _: VisitState) -> tuple[str, str]:
    due = f", table {' at '.join(filter(None, (body.orifice_due, body.coil)))}" if body.orifice_due else ""
    parts = (
        f"orifice {body.orifice_found}{due}" if body.orifice_found else "",
        f"bulb {BULB_WORDS[body.bulb]}" if body.bulb else "",
        f"screen {body.screen}" if body.screen else "",
        body.debris,
    )
    return "Metering device", ", ".join(filter(None, parts))


def _only(_: Body) -> str:
    return "unit"


KINDS = (
    Kind(SensorBody, _sensor_said, keeping(Controls, "sensors", lambda body: body.name.casefold()), _sensor_checked),
    Kind(EconomiserBody, _economiser_said, keeping(Controls, "economisers", _only)),
    Kind(ThermostatBody, _thermostat_said, keeping(Controls, "thermostats", _only), _thermostat_checked),
    Kind(MeteringBody, _metering_said, keeping(Controls, "metering", _only), _metering_checked),
    Kind(OrificeTableBody, lambda body, _: ("Orifice table", "; ".join(f"{row.coil} {row.orifice}" for row in body.rows)),
         keeping(Controls, "orifices", _only), _orifices_checked),
    Kind(WiresOffBody, lambda body, _: (f"Off: {body.of}", "; ".join(wire.words for wire in body.wires)), _wires_off,
         _wires_checked, sweeps=True, happened=True, firm=True),
)  # fmt: skip
