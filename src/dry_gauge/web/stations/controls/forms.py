"""Forms of Controls."""

from __future__ import annotations

import re
from collections.abc import Mapping
from itertools import zip_longest

from dry_gauge.core.controls.chain import HABITS, TEMPLATES, LinkSort
from dry_gauge.core.errors import Refused
from dry_gauge.present.controls import body_of
from dry_gauge.web.typed import EntryForm, Reads, number, plain, texts, ticked


def _chain(form: EntryForm) -> Mapping[str, object]:
    start = form.get("start")
    if start:
        template = TEMPLATES.get(start)
        if template is None:
            raise Refused(f"There is no template called {start!r}.", "start")
        return body_of(template, start).model_dump(exclude={"kind"})
    names = [name.strip() for name in form.fields.get("name", ())]
    columns = (form.fields.get(column, ()) for column in ("sort", "after", "place", "owner"))
    links: list[dict[str, str]] = []
    for name, sort, after, place, owner in zip_longest(names, *columns, fillvalue=""):
        if not name:
            continue
        links.append(
            {
                "name": name,
                "sort": sort,
                "after": after.strip() or (links[-1]["name"] if links else ""),
                "place": place or _usual_place(sort),
                "owner": owner.strip(),
            }
        )
    if links:
        links[0]["after"] = ""
    volts = number(form, "nominal_v", "The source's volts")
    return {"links": links, "taken_from": form.get("taken_from"), **({} if volts is None else {"nominal_v": volts})}


def _usual_place(sort: str) -> str:
    return HABITS[LinkSort(sort)].place.value if sort in set(LinkSort) else "panel"


def _metering(form: EntryForm) -> Mapping[str, object]:
    """What was found; the number that is due as typed, or by the row of the table that was tapped."""
    number_due, _, coil = form.get("by_table").partition("|")
    typed = form.get("orifice_due").strip()
    by_table = {"orifice_due": number_due, "coil": coil} if number_due and not typed else {"orifice_due": typed}
    return {**texts(form, "orifice_found", "bulb", "screen", "debris"), **by_table}


def _orifice_table(form: EntryForm) -> Mapping[str, object]:
    rows = []
    for line in filter(None, (line.strip() for line in form.get("rows").splitlines())):
        coil, _, orifice = line.replace(";", " ").rpartition(" ")
        if not coil.strip():
            raise Refused(f"{line[:40]!r}: a line has coil and number, such as CK36 .063.", "rows")
        rows.append({"coil": coil.strip(), "orifice": orifice})
    if not rows:
        raise Refused("Type a line at least: coil and number, such as CK36 .063.", "rows")
    return {"rows": rows}


def _needed(form: EntryForm, field: str, what: str, words: str) -> float:
    found = number(form, field, what)
    if found is None:
        raise Refused(words, field)
    return found


def _chain_point(form: EntryForm) -> Mapping[str, object]:
    volts = _needed(form, "volts", "Volts", "Type what the meter shows, 0 for nothing.")
    return {"link": form.get("link"), "how": form.get("how") or "common", "volts": volts}


def _fuse_hunt(form: EntryForm) -> Mapping[str, object]:
    loads = [line.strip() for line in re.split(r"[\n;]+", form.get("loads")) if line.strip()]
    spent = number(form, "spent", "Fuses spent")
    return {
        "circuit_v": _needed(form, "circuit_v", "The circuit's volts", "Volts of this circuit: 24 for most controls."),
        "fuse_a": _needed(form, "fuse_a", "The fuse", "What is printed on the fuse, in amps."),
        "breaker_a": _needed(form, "breaker_a", "The breaker", "What is printed on the breaker, in amps: the fuse's or less."),
        "loads": loads,
        "spent": int(spent) if spent else 0,
    }


def _fuse_try(form: EntryForm) -> Mapping[str, object]:
    if form.get("held") not in ("yes", "no"):
        raise Refused("Did it hold, or open again?", "held")
    return {"connected": [name for name in form.fields.get("connected", ()) if name], "held": form.get("held") == "yes"}


def _load_ohms(form: EntryForm) -> Mapping[str, object]:
    return {"load": form.get("load"), "ohms": _needed(form, "ohms", "Ohms", "Type the ohms of this load, its wires off.")}


def _code(form: EntryForm) -> Mapping[str, object]:
    try:
        taps = [float(text) for text in form.get("taps").split()]
    except ValueError:
        raise Refused("The taps were not understood. Count again, or type the code.", "code") from None
    times, order = number(form, "times", "How many times"), number(form, "order", "The place in its list")
    return {
        "board": form.get("board"),
        "code": form.get("code"),
        "taps_s": taps,
        "slow": ticked(form, "slow"),
        "shown_on": form.get("shown_on"),
        **({} if times is None else {"times": int(times)}),
        **({} if order is None else {"order": int(order)}),
    }


def _code_meaning(form: EntryForm) -> Mapping[str, object]:
    return {**plain("board", "code", "meaning", "first_test")(form), "latches": ticked(form, "latches")}


def _sensor(form: EntryForm) -> Mapping[str, object]:
    temp, unit = number(form, "temp", "The thermometer"), form.get("temp_unit") or "F"
    points = []
    for i in (1, 2, 3):
        at, ohms = number(form, f"point_{i}", "The temperature"), number(form, f"point_ohms_{i}", "Ohms")
        if (at is None) != (ohms is None):
            raise Refused("Each point of its own curve needs a temperature and ohms.", f"point_{i}")
        if at is not None:
            points.append({"temp": at, "ohms": ohms})
    return {
        **plain("name", "curve", "wire")(form),
        "ohms": _needed(form, "ohms", "Ohms", "Type the sensor's ohms."),
        "points": points,
        "temp_unit": unit,
        "unplugged": ticked(form, "unplugged"),
        **({} if temp is None else {"temp": temp}),
    }


def _economiser(form: EntryForm) -> Mapping[str, object]:
    humidity = number(form, "humidity", "Humidity")
    return {
        "temp": _needed(form, "temp", "Outdoor air", "Type the outdoor air, in shade."),
        "temp_unit": form.get("temp_unit") or "F",
        **plain("letter", "damper", "plug")(form),
        **({} if humidity is None else {"humidity": humidity}),
    }


def _thermostat(form: EntryForm) -> Mapping[str, object]:
    space, differential = number(form, "space", "The space"), number(form, "differential", "The differential")
    return {
        **plain("mode", "second_stage", "schedule")(form),
        "temp_unit": form.get("temp_unit") or "F",
        "setpoint": _needed(form, "setpoint", "The setting", "Type what it is set to."),
        **({} if space is None else {"space": space}),
        **({} if differential is None else {"differential": differential}),
    }


def _wires_off(form: EntryForm) -> Mapping[str, object]:
    wires = []
    for line in form.get("wires").splitlines():
        terminal, _, colour = line.strip().partition(" ")
        if terminal:
            wires.append({"terminal": terminal, "colour": colour.strip()})
    if not wires:
        raise Refused("One wire a line: its terminal, then its color.", "wires")
    return {"of": form.get("of"), "wires": wires}


def _defrost(form: EntryForm) -> Mapping[str, object]:
    temp, amps = number(form, "temp", "The sensor"), number(form, "amps", "Amps")
    return {
        "mark": form.get("mark"),
        "temp_unit": form.get("temp_unit") or "F",
        **({} if temp is None else {"temp": temp}),
        **({} if amps is None else {"amps": amps}),
    }


FORMS: Mapping[str, Reads] = {
    "chain": _chain,
    "chain_point": _chain_point,
    "coil": lambda form: {"coil": form.get("coil"), "runs": ticked(form, "runs")},
    "open_link": plain("link", "cause"),
    "closed_link": plain("link", "cause", "how"),
    "fuse_hunt": _fuse_hunt,
    "fuse_try": _fuse_try,
    "load_ohms": _load_ohms,
    "fuse_end": plain("found"),
    "code": _code,
    "code_meaning": _code_meaning,
    "no_more_codes": plain("board"),
    "sensor": _sensor,
    "economiser": _economiser,
    "thermostat": _thermostat,
    "metering_check": _metering,
    "orifice_table": _orifice_table,
    "wires_off": _wires_off,
    "defrost": _defrost,
}
