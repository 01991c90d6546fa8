"""Weights as people type them, in whole grams; asked about where they can be meant in two ways."""

from __future__ import annotations

from collections.abc import Callable

from dry_gauge.core.charge.mass import GRAM_KG, WEIGHT_UNITS, Weighed, forms, understood_weight
from dry_gauge.core.errors import Refused
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.kind import Body, VisitState
from dry_gauge.notebook.subjects.movements import MovementBody, expected_kg, slip_in

Get = Callable[[str], str]
"""A form's field by name."""
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
        raise Doubtful(
            f"{text.strip()} pounds is {said.lb_oz}. Or did you mean {instead.lb_oz}?",
            field,
            ((said.lb_oz, said.lb_oz), (instead.lb_oz, instead.lb_oz)),
        )
    return round(weighed.kg / GRAM_KG)


def maybe_grams(get: Get, field: str, *, ask: bool = True) -> int | None:
    """A typed weight in whole grams, or nothing."""
    return grams_of(get, field, ask=ask) if get(field).strip() or get(f"{field}_oz").strip() else None


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
    raise Doubtful(
        f"{said.lb_oz} was typed; about {forms(expected).lb_oz} is expected. Were {_UNIT_WORDS[meant]} meant, and "
        f"{_UNIT_WORDS[written]} written?",
        "weight",
        ((f"{said.lb_oz}, it is right", said.lb_oz), (instead.lb_oz, instead.lb_oz)),
    )
