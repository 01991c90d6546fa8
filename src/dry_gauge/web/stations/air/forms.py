"""Forms of Air."""

from __future__ import annotations

import re
from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import in_unit, typed_number
from dry_gauge.web.typed import EntryForm, Reads, metered, number, number_in, plain, texts, ticked, ticks


def _traverse(form: EntryForm) -> Mapping[str, object]:
    width, height, free = (
        number(form, name, what) for name, what in (("width", "The width"), ("height", "The height"), ("free", "The open area"))
    )
    if width is None:
        raise Refused("Type the duct's inside width, or its diameter.", "width")
    points = [text for text in form.fields.get("velocities", ()) if text.strip()]
    if len(points) == 1:  # pasted or said in one line
        points = re.split(r"[\s;]+|,\s+", points[0].strip())
    velocities = [typed_number(text, "velocities") for text in points]
    return {
        "where": form.get("where"),
        "shape": form.get("shape") or "rectangle",
        "width": width,
        "length_unit": form.get("length_unit") or "in",
        "velocities": velocities,
        "velocity_unit": form.get("velocity_unit") or "fpm",
        **({} if height is None else {"height": height}),
        **({} if free is None else {"free": free}),
    }


_BELT = {"motor_rpm": "The motor's speed", "blower_rpm": "The blower's speed", "motor_pitch": "The motor's sheave",
         "blower_pitch": "The blower's sheave", "centres": "From shaft to shaft", "closed_pitch": "Pitch closed",
         "open_pitch": "Pitch open",
         "most_turns": "Turns in all", "now_turns": "Turns now", "amps": "Amps", "full_load_amps": "Full load amps"}  # fmt: skip


def _belt(form: EntryForm) -> Mapping[str, object]:
    found = {name: number(form, name, what) for name, what in _BELT.items()}
    for name in ("motor_rpm", "motor_pitch", "blower_pitch"):
        if found[name] is None:
            raise Refused(f"{_BELT[name]} is needed.", name)
    known = {name: value for name, value in found.items() if value is not None}
    return {"machine": form.get("machine"), **known, "pitch_unit": form.get("pitch_unit") or "in", **metered(form)}


def _filter(form: EntryForm) -> Mapping[str, object]:
    count = number(form, "count", "How many")
    more = {name: form.get(name) for name in ("size", "sort", "due") if form.get(name).strip()}
    if ticked(form, "read_since") and not ticked(form, "changed"):
        raise Refused("Was it changed? Tick that as well, or leave the second box open.", "changed")
    return {
        "place": form.get("place"),
        "found": form.get("found") or "clean",
        **ticks(form, "changed", "read_since"),
        "count": int(count) if count else 1,
        **more,
    }


def _mixed_air(form: EntryForm) -> Mapping[str, object]:
    names = {"back": "Return air", "outdoor": "Outdoor air", "mixed": "Mixed air"}
    found = {name: number(form, name, what) for name, what in names.items()}
    for name, value in found.items():
        if value is None:
            raise Refused(f"{names[name]} is needed: all three at one moment.", name)
    return {**found, "unit": form.get("unit") or "F"}


def _damper_test(form: EntryForm) -> Mapping[str, object]:
    return {**texts(form, "damper", "words"), **ticks(form, "opens", "shuts")}


def _fan_table(form: EntryForm) -> Mapping[str, object]:
    statics, flows = [], []
    for line in filter(None, (line.strip() for line in form.get("points").splitlines())):
        found = re.findall(r"\d+(?:[.,]\d+)*", line)
        if len(found) != 2:
            raise Refused(f"{line[:40]!r}: a line has a static and an airflow, such as 0.3 1180.", "points")
        static, flow = (typed_number(one, "points") for one in found)
        statics.append(in_unit(static, form.get("static_unit"), "inwc", "inwc"))
        flows.append(in_unit(flow, form.get("flow_unit"), "cfm", "cfm"))
    return {"speed": form.get("speed"), "statics": statics, "flows": flows}


def _drop_table(form: EntryForm) -> Mapping[str, object]:
    found = {
        "drop": number_in(form, "drop", "The drop", "inwc", typed_in="static_unit"),
        "flow": number_in(form, "flow", "The airflow", "cfm", typed_in="flow_unit"),
    }
    for name, value in found.items():
        if value is None:
            raise Refused("A part's drop needs the airflow at which it is so, and both are numbers.", name)
    return {"part": form.get("part") or "coil", **found}


FORMS: Mapping[str, Reads] = {
    "fan_table": _fan_table,
    "fan_speed": plain("speed"),
    "drop_table": _drop_table,
    "traverse": _traverse,
    "belt": _belt,
    "filter": _filter,
    "mixed_air": _mixed_air,
    "damper_test": _damper_test,
}
