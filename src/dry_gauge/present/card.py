"""The unit card as it is read: what is known, and what each unknown is good for."""

from __future__ import annotations

from dataclasses import dataclass

from dry_gauge.core.charge.mass import forms
from dry_gauge.core.quantities import FOOT_M
from dry_gauge.core.sheet import CircuitFacts, UnitFacts
from dry_gauge.core.vocabulary import KIND_WORDS, METERING_WORDS, Metering
from dry_gauge.core.words import Reader

_FIXED = (Metering.ORIFICE, Metering.CAPILLARY)


@dataclass(frozen=True, slots=True)
class CardRow:
    """One line of the card: its value, or None where it is unknown; then what it is good for."""

    label: str
    value: str | None
    good_for: str = ""


def card_rows(facts: UnitFacts, reader: Reader) -> tuple[CardRow, ...]:
    """The card's lines, in the order in which a label has them."""

    def gap(value_k: float | None) -> str | None:
        return None if value_k is None else reader.say("difference", value_k)

    def degrees(value_k: float | None) -> str | None:
        return None if value_k is None else reader.say("temperature", value_k)

    def words(value: str | None) -> str | None:
        return None if value is None else value.replace("_", " ")

    refrigerant, metering = facts.refrigerant, facts.metering
    rows = [
        CardRow("Kind", KIND_WORDS[facts.kind]),
        CardRow("Refrigerant", f"{refrigerant.name}, {refrigerant.safety_group}{', estimated' if refrigerant.estimated else ''}"),
        CardRow(
            "Metering",
            None if metering is None else METERING_WORDS[metering],
            "decides whether superheat or subcooling tells the charge",
        ),
        CardRow(
            "Size",
            None if facts.nominal_capacity_w is None else reader.say("size", facts.nominal_capacity_w),
            "sharpens the air split to expect",
        ),
        CardRow(
            "Label charge",
            None if facts.label_charge_kg is None else _weight(facts.label_charge_kg),
            "gives the weight to aim for, and what leaked",
        ),
        CardRow(
            "Rated load amps",
            None if facts.rated_load_amps is None else f"{facts.rated_load_amps:g} A",
            "shows whether the compressor works too hard",
        ),
        CardRow(
            "Elevation",
            None if facts.elevation_m is None else _height(facts.elevation_m, reader),
            "sets the gauge's zero: sea level is assumed",
        ),
    ]
    if facts.kind.is_walk_in:
        control = facts.head_pressure_control
        rows += [
            CardRow("Design box", degrees(facts.design_box_k), f"{degrees(facts.box_target_k)} is assumed"),
            CardRow(
                "Evaporator class",
                words(facts.evaporator_class.value if facts.evaporator_class else None),
                "says how far below the box the coil may be",
            ),
            CardRow("Head-pressure control", words(control.value if control else None), "says whether a low head is meant"),
            CardRow("Receiver", "yes" if facts.receiver else "no"),
            CardRow("Low-pressure cut-out", _gauge(facts.low_pressure_cutout_pa, reader), "says where the suction must stop"),
        ]
    else:
        rows += [
            CardRow(
                "Efficiency",
                None if facts.seer is None else f"SEER {facts.seer:g}",
                "says how far above the outdoor air it may condense",
            ),
            CardRow("Label superheat", gap(facts.target_superheat_k), "is the target: wet bulb and outdoor air stand in for it")
            if metering in _FIXED
            else CardRow(
                "Label subcooling", gap(facts.target_subcooling_k), "is the target: a habit of the trade stands in for it"
            ),
        ]
    rows += [CardRow(f"Circuit {one.number}", _circuit(one), "gives the weight to aim for in it") for one in facts.more_circuits]
    return (
        *rows,
        CardRow("High-pressure cut-out", _gauge(facts.high_pressure_cutout_pa, reader), "says where the head must stop"),
    )


def _circuit(own: CircuitFacts) -> str | None:
    weight = "" if own.label_charge_kg is None else _weight(own.label_charge_kg)
    return ", ".join(filter(None, (own.refrigerant.name if own.refrigerant else "", weight))) or None


def _height(metres: float, reader: Reader) -> str:
    return f"{metres:,.0f} m" if reader.celsius else f"{metres / FOOT_M:,.0f} ft"


def _weight(kg: float) -> str:
    said = forms(kg)
    return f"{said.lb_oz}, {said.kg}"


def _gauge(pressure_pa: float | None, reader: Reader) -> str | None:
    return None if pressure_pa is None else reader.say("pressure", pressure_pa)
