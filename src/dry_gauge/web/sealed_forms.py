"""Forms of the sealed work: weights, lengths and pressures as people type them, into what an entry holds."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from dry_gauge.core.errors import Refused
from dry_gauge.core.mass import GRAM_KG, OUNCE_KG, WEIGHT_UNITS, Weighed, forms, understood_weight
from dry_gauge.core.quantities import FOOT_M
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.kind import Body, VisitState
from dry_gauge.notebook.subjects.charge import MovementBody, expected_kg, slip_in

Get = Callable[[str], str]
_UNIT_WORDS = {"lb": "pounds", "oz": "ounces", "kg": "kilograms", "g": "grams"}


class Doubtful(Refused):
    """A weight that can be meant in two ways: both are offered, and nothing is kept until one is chosen."""

    def __init__(self, message: str, field: str, choices: tuple[tuple[str, str], ...]) -> None:
        super().__init__(message, field)
        self.choices = choices


def _typed(get: Get, field: str) -> Weighed:
    """A typed weight as it was understood."""
    text = get(field)
    ounces = get(f"{field}_oz").strip()
    if ounces:
        text = f"{text.strip() or '0'} lb {ounces} oz"
    try:
        return understood_weight(text, get(f"{field}_unit") or "lb")
    except Refused as refusal:
        raise Refused(refusal.message, field) from None


def grams_of(get: Get, field: str, *, ask: bool = True) -> int:
    """A typed weight in whole grams.

    Raises
    ------
    Doubtful
        If it could be pounds and ounces written as a decimal, unless it was said to be right.
    Refused
    """
    text, weighed = get(field), _typed(get, field)
    if ask and weighed.instead_kg is not None and get("sure") != text.strip():
        said, instead = forms(weighed.kg), forms(weighed.instead_kg)
        raise Doubtful(f"{text.strip()} pounds is {said.lb_oz}. Or did you mean {instead.lb_oz}?", field,
                       ((said.lb_oz, said.lb_oz), (instead.lb_oz, instead.lb_oz)))  # fmt: skip
    return round(weighed.kg / GRAM_KG)


def _maybe_grams(get: Get, field: str, *, ask: bool = True) -> int | None:
    return grams_of(get, field, ask=ask) if get(field).strip() or get(f"{field}_oz").strip() else None


def _number(get: Get, field: str, what: str) -> float | None:
    text = get(field).strip().replace(",", ".")
    if not text:
        return None
    try:
        return float(text)
    except ValueError:
        raise Refused(f"{what} is a number, such as 44.", field) from None


def _yes(get: Get, field: str) -> bool:
    return get(field) in ("yes", "on", "true")


def _target(get: Get) -> dict[str, object]:
    per = FOOT_M if get("length_unit") != "m" else 1.0
    length, included = _number(get, "length", "The length"), _number(get, "included", "The included length")
    maker = _number(get, "maker", "The maker's figure")
    change = get("change").strip()
    sign = -1 if change[:1] in "-−–" and change else 1
    found: dict[str, object] = {
        "label_g": grams_of(get, "label"),
        "line": get("line") or "3/8",
        "line_included_m": 0.0 if included is None else round(included * per, 4),
        "drier_g": _maybe_grams(get, "drier") or 0,
        "change_words": get("change_words"),
    }
    if length is not None:
        found["line_length_m"] = round(length * per, 4)
    if maker is not None:
        # Ounces a foot, or grams a metre: as makers print it.
        found["maker_g_per_m"] = maker if per == 1.0 else maker * OUNCE_KG / GRAM_KG / FOOT_M
    if change:
        found["change_g"] = sign * grams_of(
            lambda name: get(name).lstrip("-−– ") if name == "change" else get(name), "change"
        )
    return found


def _movement(get: Get) -> dict[str, object]:
    return {"way": get("way"), "grams": grams_of(get, "weight"), "cylinder": get("cylinder"), "phase": get("phase"),
            "hose_g": _maybe_grams(get, "hose") or 0, "reason": get("reason"), "converting": _yes(get, "converting")}  # fmt: skip


def _pour(get: Get) -> dict[str, object]:
    # A scale shows decimals: they are never ounces in disguise.
    return {"way": get("way"), "gross_g": grams_of(get, "gross", ask=False), "cylinder": get("cylinder"), "phase": get("phase"),
            "reason": get("reason"), "converting": _yes(get, "converting"), "source": get("source") or "typed"}  # fmt: skip


def _pour_end(get: Get) -> dict[str, object]:
    found: dict[str, object] = {"pour": get("pour"), "hose_g": _maybe_grams(get, "hose") or 0, "reason": get("reason"),
                                "source": get("source") or "typed"}  # fmt: skip
    by_hand = _maybe_grams(get, "weight")
    if by_hand is not None:
        return found | {"grams": by_hand}
    return found | {"gross_g": grams_of(get, "gross", ask=False)}


def _pour_mark(get: Get) -> dict[str, object]:
    return {"pour": get("pour"), "gross_g": grams_of(get, "gross", ask=False), "source": get("source") or "typed"}


def _hold(get: Get) -> dict[str, object]:
    limit = _number(get, "limit", "The limit")
    return {"section": get("section"), "unit": get("unit") or "psig", "gas": get("gas") or "nitrogen",
            "vacuum_gauge_off": _yes(get, "vacuum_gauge_off")} | ({} if limit is None else {"limit": limit})  # fmt: skip


def _hold_reading(get: Get) -> dict[str, object]:
    pressure, temp = _number(get, "pressure", "The pressure"), _number(get, "temp", "The temperature")
    if pressure is None:
        raise Refused("Type what the gauge shows.", "pressure")
    if temp is None:
        raise Refused("Type the temperature of the pipe as well: without it the weather passes for a leak.", "temp")
    accuracies = {name: value for name in ("pressure_accuracy", "temp_accuracy")
                  if (value := _number(get, name, "The accuracy")) is not None}  # fmt: skip
    return {"hold": get("hold"), "pressure": pressure, "pressure_unit": get("pressure_unit") or "psig", "temp": temp,
            "temp_unit": get("temp_unit") or "F", "gauge": get("gauge"), "thermometer": get("thermometer"),
            "stage": _yes(get, "stage"), "source": get("source") or "typed", **accuracies}  # fmt: skip


def _evacuation(get: Get) -> dict[str, object]:
    target = _number(get, "target_micron", "The target")
    found: dict[str, object] = {"what": get("what") or "system", "gauge": get("gauge"), "gauge_at": get("gauge_at"),
                                "cores_out": _yes(get, "cores_out"), "hoses": get("hoses"),
                                "water_suspected": _yes(get, "water_suspected"),
                                "charge_kept": _yes(get, "charge_kept"), "triple": _yes(get, "triple"),
                                "school": get("school") or "strict"}  # fmt: skip
    if target is not None:
        found["target_micron"] = target
    if get("done_by"):
        found["done_by"] = get("done_by")
    return found


def _point(get: Get) -> dict[str, object]:
    text = get("micron").replace(",", "").replace(" ", "")
    try:
        return {"evacuation": get("evacuation"), "micron": float(text)}
    except ValueError:
        raise Refused("Type microns, such as 412. A gauge at its end shows nothing: wait.", "micron") from None


def _recovered_to(get: Get) -> dict[str, object]:
    value = _number(get, "value", "The vacuum")
    if value is None:
        raise Refused("Type where the gauge came to rest: 0 psig, or inches of vacuum.", "value")
    return {"appliance": get("appliance"), "value": value, "unit": get("unit") or "psig", "reason": get("reason"),
            "minutes_held": _number(get, "minutes_held", "The wait") or 0.0}  # fmt: skip


def _cure(get: Get) -> dict[str, object]:
    months = _number(get, "months", "The expected life")
    found: dict[str, object] = {"leak": get("leak"), "cure": get("cure"), "part": get("part")}
    return found | ({} if months is None else {"months": int(months)})


READ: Mapping[str, Callable[[Get], dict[str, object]]] = {
    "sealed_plan": lambda get: {"repair": get("repair"), "compressor_runs": _yes(get, "compressor_runs"),
                                "receiver_holds": _yes(get, "receiver_holds")},
    "step": lambda get: {"step": get("step"), "done": _yes(get, "done"), "reason": get("reason")},
    "charge_target": _target,
    "movement": _movement,
    "pour": _pour,
    "pour_mark": _pour_mark,
    "pour_end": _pour_end,
    "recovered_to": _recovered_to,
    "leak_place": lambda get: {name: get(name) for name in ("place", "result", "method", "words")},
    "leak_cure": _cure,
    "hold": _hold,
    "hold_reading": _hold_reading,
    "hold_end": lambda get: {name: get(name) for name in ("hold", "verdict", "reason")},
    "evacuation": _evacuation,
    "vacuum_point": _point,
    "vacuum_event": lambda get: {name: get(name) for name in ("evacuation", "event", "reason")},
}  # fmt: skip
"""How each kind's fields are read."""


def doubt_slip(state: VisitState, facts: UnitFacts, body: Body, get: Get) -> None:
    """Ask where a weight misses what is expected by the factor between two units.

    Raises
    ------
    Doubtful
    """
    if get("sure") or not isinstance(body, MovementBody):
        return
    found = slip_in(state, facts, body.way, body.grams)
    expected = expected_kg(state, facts, body.way)
    if found is None or expected is None:
        return
    written, meant = found
    kg = _typed(get, "weight").kg
    said, instead = forms(kg), forms(kg * WEIGHT_UNITS[meant] / WEIGHT_UNITS[written])
    raise Doubtful(f"{said.lb_oz} was typed; about {forms(expected).lb_oz} is expected. Were {_UNIT_WORDS[meant]} meant, and "
                   f"{_UNIT_WORDS[written]} written?", "weight",
                   ((f"{said.lb_oz}, it is right", said.lb_oz), (instead.lb_oz, instead.lb_oz)))  # fmt: skip
