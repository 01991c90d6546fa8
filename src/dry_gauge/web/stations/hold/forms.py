"""Forms of Hold."""

from __future__ import annotations

from collections.abc import Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.web.typed import EntryForm, Reads, number, plain, ticked


def _hold(form: EntryForm) -> Mapping[str, object]:
    limit = number(form, "limit", "The limit")
    return {
        "section": form.get("section"),
        "unit": form.get("unit") or "psig",
        "gas": form.get("gas") or "nitrogen",
        "vacuum_gauge_off": ticked(form, "vacuum_gauge_off"),
    } | ({} if limit is None else {"limit": limit})


def _hold_reading(form: EntryForm) -> Mapping[str, object]:
    pressure, temp = number(form, "pressure", "The pressure"), number(form, "temp", "The temperature")
    if pressure is None:
        raise Refused("Type what the gauge shows.", "pressure")
    if temp is None:
        raise Refused("Type the temperature of the pipe as well: without it the weather passes for a leak.", "temp")
    accuracies = {
        name: value
        for name in ("pressure_accuracy", "temp_accuracy")
        if (value := number(form, name, "The accuracy")) is not None
    }
    return {
        "hold": form.get("hold"),
        "pressure": pressure,
        "pressure_unit": form.get("pressure_unit") or "psig",
        "temp": temp,
        "temp_unit": form.get("temp_unit") or "F",
        "gauge": form.get("gauge"),
        "thermometer": form.get("thermometer"),
        "stage": ticked(form, "stage"),
        "source": form.get("source") or "typed",
        **accuracies,
    }


FORMS: Mapping[str, Reads] = {"hold": _hold, "hold_reading": _hold_reading, "hold_end": plain("hold", "verdict", "reason")}
