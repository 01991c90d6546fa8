"""What feels and feeds: sensors, economisers, thermostats, metering devices, each with what it comes to."""

from __future__ import annotations

from collections.abc import Sequence

from dry_gauge.core.controls.metering import same_orifice
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import in_time
from dry_gauge.notebook.subjects.controls import (
    BULB_WORDS,
    Controls,
    EconomiserBody,
    MeteringBody,
    OrificeRow,
    OrificeTableBody,
    SensorBody,
    ThermostatBody,
)
from dry_gauge.present.electrical import MeasuredItem
from dry_gauge.present.scene import Scene

_STANDS = {"good": "ok", "asks": "asks", "wrong": "act"}


def sensing(scene: Scene) -> list[MeasuredItem]:
    state, reader = scene.view.state[Controls], scene.reader
    return [
        *(_sensor(one.body, reader) for one in in_time(state.sensors.values())),
        *(_economiser(one.body, reader) for one in state.economisers.values()),
        *(_thermostat(one.body, reader) for one in state.thermostats.values()),
        *(_metering(one.body) for one in state.metering.values()),
    ]


def orifices(scene: Scene) -> Sequence[OrificeRow]:
    """The model's own table of orifices: this visit's, else the latest of another visit to such a unit."""
    own = [one.body for one in scene.view.state[Controls].orifices.values()]
    known = [body for body in scene.model_tables if isinstance(body, OrificeTableBody)]
    return next((body.rows for body in (*own, *reversed(known))), ())


def _sensor(body: SensorBody, reader: Reader) -> MeasuredItem:
    found = body.judged
    lines = [found.words]
    if found.temperature_k is not None and found.uncertainty_k is not None:
        shown = f"{reader.say('temperature', found.temperature_k)} by its curve, give or take "
        lines.insert(0, shown + reader.say("difference", found.uncertainty_k))
    if found.off_k is not None:
        way = "above" if found.off_k > 0 else "below"
        lines[0] += f"; {reader.say('difference', abs(found.off_k))} {way} the thermometer"
    name = f"Sensor, {body.name}{f', {body.wire}' if body.wire else ''}"
    return MeasuredItem(name, f"{body.ohms:,.0f} ohm", lines, _STANDS[found.state])


def _economiser(body: EconomiserBody, reader: Reader) -> MeasuredItem:
    found = body.judged
    line = f"Letter {body.letter}: free below about {reader.say('temperature', found.up_to_k)} at this humidity (assumed habit)."
    return MeasuredItem(
        "Economizer",
        f"outdoors {reader.own(body.temp, body.temp_unit)}",
        [found.words, line, *found.then],
        "act" if "does the other" in found.words else "ok",
    )


def _thermostat(body: ThermostatBody, reader: Reader) -> MeasuredItem:
    lines = []
    stands = "ok"
    if body.space is not None and body.differential is not None:
        gap = body.space - body.setpoint if body.mode != "heat" else body.setpoint - body.space
        calls = gap >= body.differential / 2
        lines.append("By its setting it should call now." if calls else "By its setting it should not call now.")
        stands = "ok" if calls else "asks"
    lines += [words for words in (body.second_stage, body.schedule) if words]
    return MeasuredItem("Thermostat", f"{body.mode or 'set'} {reader.own(body.setpoint, body.temp_unit)}", lines, stands)


def _metering(body: MeteringBody) -> MeasuredItem:
    found, due = body.orifice_found.strip(), body.orifice_due.strip()
    wrong = []
    behind = f" behind {body.coil}" if body.coil else ""
    if found and due and not same_orifice(found, due):
        wrong.append(f"Orifice {found} where the table asks for {due}{behind}: it feeds another unit's flow.")
    if body.bulb not in ("", "sound"):
        wrong.append(f"Bulb {BULB_WORDS[body.bulb]}: it feels the wrong warmth. Mend that before the valve is blamed.")
    if body.screen == "blocked":
        wrong.append(f"Screen blocked{f' with {body.debris}' if body.debris else ''}: find where that comes from.")
    right = "The orifice is the one that the outdoor unit asks for." if found and due else "Nothing against it."
    return MeasuredItem("Metering device", "", wrong or [right], "act" if wrong else "ok")
