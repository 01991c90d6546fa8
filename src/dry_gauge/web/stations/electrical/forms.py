"""Forms of Electrical."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from dry_gauge.core.electrical.motor import MATCH_LABELS
from dry_gauge.core.electrical.supply import LEGS, PAIRS
from dry_gauge.core.errors import Refused
from dry_gauge.core.intake import typed_number
from dry_gauge.web.typed import EntryForm, Reads, metered, number, plain, ticked

_OPEN = ("open", "ol", "o.l.", "oo", "∞", "inf")


def _numbers(form: EntryForm, names: Iterable[str], what: str, suffix: str = "") -> dict[str, float]:
    found = {name: number(form, f"{name}{suffix}", what) for name in names}
    return {name: value for name, value in found.items() if value is not None}


def _given(form: EntryForm, **names: str) -> dict[str, object]:
    """Numbers that were typed, by field and what to call each."""
    found = {name: number(form, name, what) for name, what in names.items()}
    return {name: value for name, value in found.items() if value is not None}


def _supply(form: EntryForm) -> Mapping[str, object]:
    drop, where = number(form, "drop_v", "The drop"), form.get("drop_where").strip()
    if drop is not None and not where:
        raise Refused("Across what? Such as: pole 2, fuse L1.", "drop_where")
    label = number(form, "label_v", "The label's volts")
    return {
        "loaded": form.get("state") != "open",
        "three_phase": ticked(form, "three_phase"),
        "pairs": _numbers(form, PAIRS, "Volts"),
        "ground": _numbers(form, LEGS, "Volts to ground", "_ground"),
        "drops": {} if drop is None else {where: drop},
        **({} if label is None else {"label_v": label}),
        **metered(form),
    }


def _machine_amps(form: EntryForm) -> Mapping[str, object]:
    return {
        "machine": form.get("machine"),
        "legs": _numbers(form, LEGS, "Amps"),
        **_given(form, rated="The plate's amps", volts="Volts"),
        **metered(form),
    }


def _capacitor(form: EntryForm) -> Mapping[str, object]:
    if "/" in form.get("rated_uf"):
        raise Refused("Two sections: write each by itself, the compressor's first.", "rated_uf")
    tolerance = number(form, "tolerance", "The tolerance")
    more = {} if tolerance is None else {"tolerance": tolerance / 100}
    rated = number(form, "rated_uf", "The rating")
    if rated is None:
        raise Refused("What is printed on it, in microfarads?", "rated_uf")
    return {
        "machine": form.get("machine"),
        "rated_uf": rated,
        **more,
        **_given(form, bench_uf="The bench value", amps="Amps", volts="Volts"),
        **metered(form),
    }


def _strip_heat(form: EntryForm) -> Mapping[str, object]:
    steps = [typed_number(one, "steps", "Each of the amps") for one in form.get("steps").split()]
    found = _given(
        form,
        amps="Amps",
        blower_amps="The blower's amps",
        volts="Volts",
        installed_kw="Kilowatts",
        installed_v="The plate's volts",
    )
    for name, words in (
        ("amps", "Type the amps of the whole."),
        ("volts", "Type the volts while it heats."),
        ("installed_kw", "Type the kilowatts of all banks, from the plate."),
    ):
        if name not in found:
            raise Refused(words, name)
    return {**found, "steps": steps, "three_phase": ticked(form, "three_phase"), **metered(form)}


def _power(form: EntryForm) -> Mapping[str, object]:
    found = _given(form, watts="Watts", volts="Volts", amps="Amps")
    for name, words in (("watts", "the watts"), ("volts", "the volts of one pair"), ("amps", "the amps of one leg")):
        if name not in found:
            raise Refused(f"Type {words}.", name)
    return {"machine": form.get("machine"), **found, "three_phase": ticked(form, "three_phase"), **metered(form)}


def _ohms(form: EntryForm, name: str) -> tuple[bool, float | None]:
    """Whether it was typed, and the ohms; none for an open winding."""
    text = form.get(name).strip().lower()
    if not text:
        return False, None
    return True, None if text in _OPEN else number(form, name, "Ohms")


def _motor_test(form: EntryForm) -> Mapping[str, object]:
    typed = [_ohms(form, f"ohm_{i}") for i in (1, 2, 3)]
    ground = number(form, "ground_mohm", "Megohms to ground")
    return {
        "machine": form.get("machine"),
        "three_phase": ticked(form, "three_phase"),
        "ohms": [ohms for was, ohms in typed if was],
        "spins": form.get("spins"),
        "wires_off": ticked(form, "wires_off"),
        **({} if ground is None else {"ground_ohm": ground * 1e6}),
    }


def _motor_match(form: EntryForm) -> Mapping[str, object]:
    plates = {
        side: {name: form.get(f"{side}_{name}") for name in MATCH_LABELS if form.get(f"{side}_{name}").strip()}
        for side in ("old", "new")
    }
    return {"machine": form.get("machine"), **plates}


FORMS: Mapping[str, Reads] = {
    "supply": _supply,
    "machine_amps": _machine_amps,
    "capacitor": _capacitor,
    "power": _power,
    "strip_heat": _strip_heat,
    "motor_test": _motor_test,
    "motor_match": _motor_match,
    "compressor_line": plain("line", "answer"),
}
