"""The account of refrigerant on a visit: what belongs in, what is in, to go, what came out; cylinders to choose from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any
from uuid import UUID

from dry_gauge.core.charge.amounts import ChargeTarget, Standing, hot_fill_share
from dry_gauge.core.charge.cylinders import CylinderKind, Held, limit_kg
from dry_gauge.core.charge.mass import GRAM_KG, Forms, forms
from dry_gauge.core.local_time import day_of
from dry_gauge.core.shop import ShopSettings
from dry_gauge.notebook.subjects.charge_target import target_of
from dry_gauge.notebook.subjects.movements import INTO_UNIT, OUT_OF_UNIT, Charge, KeptPour, Moved, standing_of
from dry_gauge.present.permit import permit_of
from dry_gauge.present.scene import Scene
from dry_gauge.present.visit import VisitView

# A liquid-full share of its volume at 130 F above which a cylinder does not belong in a hot van.
_HOT_SHARE = 0.9
# What the head is read from, the better port first.
_HEADS = ("liquid_pressure", "discharge_pressure")


@dataclass(frozen=True, slots=True)
class CylinderOption:
    """A cylinder as a form offers it."""

    held: Held
    words: str
    room: Forms | None


@dataclass(frozen=True, slots=True)
class Account:
    """Weights as they stand, a live scale counted in.

    Parameters
    ----------
    pour_elsewhere : KeptPour or None
        One that is on in another circuit: it is ended there first.
    pour_far : int
        What the pour that is on has moved so far. [g]
    stop_kg : float or None
        The scale's reading at which to stop: the target is in, or the recovery cylinder is at 80 %. [kg]
    head_now : tuple of (str, bool) or None
        The head by a live probe, and whether it is at the stop line.
    """

    target: ChargeTarget | None
    standing: Standing | None
    recovered_kg: float
    missing_kg: float | None
    missing_cost: float | None
    pour: KeptPour | None
    pour_elsewhere: KeptPour | None
    pour_far: int
    stop_kg: float | None
    scale_silent: bool
    moved: Sequence[tuple[str, Moved]]
    head_now: tuple[str, bool] | None
    cylinders: Sequence[Held]
    cylinder_names: Mapping[UUID, str]
    options_out: Sequence[CylinderOption]
    options_in: Sequence[CylinderOption]
    options_other: Sequence[CylinderOption]
    settings: ShopSettings
    metric: bool

    @property
    def out_kg(self) -> float:
        """What came out, the recovery that is on counted in. [kg]"""
        on = self.pour_far if self.pour and self.pour.body.way in OUT_OF_UNIT else 0
        return self.recovered_kg + on * GRAM_KG


def account_of(scene: Scene) -> Account:
    """The account of the circuit that is shown, as it stands."""
    on, view = scene.view.state[Charge].pouring, scene.view.of_circuit(scene.circuit)
    held, settings, charge, facts = scene.cylinders, scene.settings, view.state[Charge], view.facts
    pour = charge.pouring
    live = scene.scale_g if pour and pour.body.source == "probe" else None
    far = pour.so_far_g(live) if pour else 0
    standing, target = standing_of(view.state, facts, live), target_of(view.state, facts)
    recovered = charge.recovered_g * GRAM_KG
    missing = target.kg - recovered if target and charge.recovered_to else None
    own = [option for one in held if (option := _option(one, view))]
    return Account(
        target,
        standing,
        recovered,
        missing,
        missing * settings.price_per_kg if missing and settings.price_per_kg else None,
        pour,
        None if on is pour else on,
        far,
        stop_kg(pour, far, standing, held),
        bool(pour and pour.body.source == "probe" and live is None),
        [(str(one.entry_id), one) for one in charge.in_order],
        _head_now(scene),
        held,
        {one.id: one.cylinder.name for one in held},
        [option for option in own if option.held.cylinder.kind is CylinderKind.RECOVERY and _in_test(option.held, scene.now)],
        [option for option in own if option.held.cylinder.refrigerant in facts.refrigerants and option.held.holds_g > 0],
        [_other(one) for one in held if _is_other(one, view)],
        settings,
        scene.metric,
    )


def stop_kg(pour: KeptPour | None, far_g: int, standing: Standing | None, held: Sequence[Held]) -> float | None:
    """The scale's reading at which a pour is to stop; None where nobody can say. [kg]

    Into the unit: what the cylinder weighs now, less what is to go. Out of it: what it weighs with the recovery cylinder
    at 80 % of its volume.
    """
    if pour is None:
        return None
    if pour.body.way in OUT_OF_UNIT:
        stop_g = _full_at(held, pour)
    elif standing and pour.body.way in INTO_UNIT:
        stop_g = pour.body.gross_g - far_g - round(standing.to_go_kg / GRAM_KG)
    else:
        return None
    return None if stop_g is None or stop_g < 0 else stop_g * GRAM_KG


def _full_at(held: Sequence[Held], pour: KeptPour) -> int | None:
    """What the scale shows once a recovery cylinder is at 80 %; None where nobody knows its limit. [g]"""
    into = next((one for one in held if one.id == pour.body.cylinder), None)
    most = limit_kg(into.cylinder) if into else None
    return None if into is None or most is None else pour.body.gross_g + round(most / GRAM_KG) - into.holds_g


def _head_now(scene: Scene) -> tuple[str, bool] | None:
    for probe in scene.live(_HEADS):
        assert probe.value_si is not None
        stop = permit_of(scene.view, scene.now).stop_head_pa
        return scene.reader.say("pressure", probe.value_si), stop is not None and probe.value_si >= stop
    return None


def _in_test(one: Held, now: datetime) -> bool:
    """Whether its test is not due: one that is out of test is not filled, so it is not offered."""
    return one.cylinder.retest_by is None or one.cylinder.retest_by >= day_of(now)


def _option(one: Held, view: VisitView) -> CylinderOption | None:
    of = one.cylinder.refrigerant
    if of is not None and of not in view.facts.refrigerants:
        return None
    most = limit_kg(one.cylinder)
    room = None if most is None else forms(max(0.0, most - one.holds_g * GRAM_KG))
    holds = forms(one.holds_g * GRAM_KG)
    words = f"{one.cylinder.name}, {of.name if of else 'mixed'}, holds {holds.lb_oz} ({holds.kg})"
    hot = one.cylinder.water_capacity_kg and of and hot_fill_share(one.cylinder.water_capacity_kg, of, one.holds_g * GRAM_KG)
    if hot and hot > _HOT_SHARE:
        words += ", keep it out of a hot van"
    return CylinderOption(one, words, room if one.cylinder.kind is CylinderKind.RECOVERY else None)


def _is_other(one: Held, view: VisitView) -> bool:
    """Whether it holds another refrigerant, for a unit that is changed over."""
    known = one.cylinder.refrigerant not in (None, *view.facts.refrigerants)
    return known and one.holds_g > 0 and one.cylinder.kind is not CylinderKind.RECOVERY


def _other(one: Held) -> CylinderOption:
    name: Any = one.cylinder.refrigerant
    holds = forms(one.holds_g * GRAM_KG)
    return CylinderOption(one, f"{one.cylinder.name}, {name.name}, holds {holds.lb_oz} ({holds.kg})", None)
