"""What belongs in by weight: label, line set, drier and changes, as a visit makes it."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field

from dry_gauge.core.charge import amounts
from dry_gauge.core.charge.mass import GRAM_KG, forms
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.notebook.fields import Circuit, FewWords, of_circuit
from dry_gauge.notebook.kind import Body, Case, Kept, Kind, Part, VisitState, in_time, keeping

MOST_GRAMS = 2_000_000
Grams = Annotated[int, Field(gt=0, le=MOST_GRAMS)]
"""An amount that moved."""
_Metres = Annotated[float, Field(allow_inf_nan=False, ge=0, le=300)]


class ChargeTargetBody(Body):
    """What belongs in, and how that is made. Lengths in m, weights in g; a maker's figure in g/m."""

    kind: Literal["charge_target"] = "charge_target"
    label_g: Grams
    line_length_m: _Metres | None = None
    line: FewWords = "3/8"
    line_included_m: _Metres = 0.0
    maker_g_per_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=2000)] | None = None
    drier_g: Annotated[int, Field(ge=0, le=5000)] = 0
    change_g: Annotated[int, Field(ge=-50_000, le=50_000)] = 0
    change_words: FewWords = ""
    circuit: Circuit | None = None


class ChargeTarget(Part):
    """By circuit the target as it was made last."""

    targets: dict[str, Kept[ChargeTargetBody]] = {}

    @property
    def circuits(self) -> frozenset[int]:
        """Circuits that have a target of their own."""
        return frozenset(int(number) for number in self.targets)

    def of_circuit(self, number: int) -> Self:
        """The target of one circuit."""
        return self.model_copy(update={"targets": {key: one for key, one in self.targets.items() if key == str(number)}})

    @property
    def made(self) -> Kept[ChargeTargetBody] | None:
        """The target as it was made last; None where none was."""
        return in_time(self.targets.values())[-1] if self.targets else None


def target_of(visit: VisitState, facts: UnitFacts) -> amounts.ChargeTarget | None:
    """What belongs in by this visit's target; by the label alone where none was made; None without a label."""
    made = visit[ChargeTarget].made
    if made is not None:
        return target_from(made.body, facts)
    if not facts.label_charge_kg:
        return None
    return amounts.charge_target(facts.refrigerant, facts.label_charge_kg)


def target_from(body: ChargeTargetBody, facts: UnitFacts) -> amounts.ChargeTarget:
    """A target as it was made.

    Raises
    ------
    Refused
        Where nothing, or less, would be left.
    """
    line_set = None
    if body.line_length_m is not None:
        maker = None if body.maker_g_per_m is None else body.maker_g_per_m * GRAM_KG
        line_set = amounts.LineSet(body.line_length_m, body.line, body.line_included_m, maker)
    changes = [(body.change_words or "Change", body.change_g * GRAM_KG)]
    return amounts.charge_target(facts.refrigerant, body.label_g * GRAM_KG, line_set, body.drier_g * GRAM_KG, changes)


def _target_cannot_be(case: Case[ChargeTargetBody]) -> None:
    body = case.body
    target_from(body, case.facts.of_circuit(body.circuit or 1))


def weight_words(grams: int) -> str:
    """In pounds and ounces and in kilograms, so that a slip shows."""
    found = forms(grams * GRAM_KG)
    return f"{found.lb_oz}, {found.kg}"


def _target_said(body: ChargeTargetBody, _: VisitState) -> tuple[str, str]:
    line = f", line set {body.line_length_m:.1f} m of {body.line}" if body.line_length_m is not None else ""
    return "Charge target" + of_circuit(body.circuit), f"label {weight_words(body.label_g)}{line}"


KINDS = (
    Kind(
        ChargeTargetBody,
        _target_said,
        keeping(ChargeTarget, "targets", lambda body: str(body.circuit or 1)),
        refuse=_target_cannot_be,
    ),
)
