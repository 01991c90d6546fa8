"""Numbers that cannot be, or hardly can: each with a sentence that says what to check before anything is judged."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from dry_gauge.core.air.static_profile import LOW_PA, USUAL_LIMIT_PA
from dry_gauge.core.circuit import DISCHARGE_PORT_DOUBT_K, Derived
from dry_gauge.core.judgement.flooding import find_flooding
from dry_gauge.core.judgement.oddity import Oddity
from dry_gauge.core.judgement.slips import find_other_refrigerant, find_slips
from dry_gauge.core.judgement.stops import find_no_liquid
from dry_gauge.core.quantities import Measured, to_kelvin
from dry_gauge.core.sheet import MOIST_PAIRS, CircuitView
from dry_gauge.core.target import Target
from dry_gauge.core.vocabulary import QUANTITIES
from dry_gauge.core.words import Phrase


def find_oddities(view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> list[Oddity]:
    """Everything about these readings that asks for a second look.

    References
    ----------
    .. [1] docs/rules.md, R6 and R8.
    """
    oddities = [
        *_beyond_table(view),
        *_suction_line(view, derived),
        *_flooding(view, derived, targets),
        *_liquid_line(view, derived),
        *_flashing(view, derived),
        *_air(view, derived),
        *_condensing(view, derived),
        *_pressures(view, derived),
        *_no_liquid(view, derived),
        *_static(view, derived),
        *_moist_air(view),
        *_mixed_air(view),
        *_instruments(view),
        *_stages(view),
        *find_slips(view, derived),
    ]
    codes = {oddity.code for oddity in oddities}
    if codes & {"suction_line_below_saturation", "liquid_line_above_saturation", "condensing_below_outdoor"}:
        oddities += find_other_refrigerant(view)
    if view.discharge_port_only:
        oddities.append(
            Oddity(
                "discharge_port_used",
                Phrase(
                    "Condensing values come from the discharge port, which reads high by the condenser's drop: {doubt} "
                    "of doubt was added.",
                    {"doubt": ("margin", DISCHARGE_PORT_DOUBT_K)},
                ),
                ("discharge_pressure",),
            )
        )
    return oddities


def _t(value_k: float) -> tuple[str, float]:
    return ("temperature", value_k)


def _suction_line(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    for name in ("superheat", "coil_superheat"):
        gap = derived.get(name)
        if gap is None or gap.value > 0:
            continue
        bubble, dew = derived["suction_bubble"].value, derived["suction_saturation"].value
        line = gap.value + dew
        if line + gap.uncertainty < bubble:
            yield Oddity(
                "suction_line_below_saturation",
                Phrase(
                    "The suction line at {line} is colder than saturation, {dew}: check the refrigerant selected, that the "
                    "clamp is on the right pipe, gauge zero and elevation.",
                    {"line": _t(line), "dew": _t(dew)},
                ),
                gap.measured.sources,
            )
            return


def _flooding(view: CircuitView, derived: Mapping[str, Derived], targets: Mapping[str, Target]) -> Iterator[Oddity]:
    found = find_flooding(view, derived, targets)
    if found:
        yield Oddity("flooding", found.phrase, found.readings)


def _beyond_table(view: CircuitView) -> Iterator[Oddity]:
    """Pressures that the refrigerant's table does not cover: kept, and what they mean."""
    saturation, name = view.unit.saturation, view.unit.refrigerant.name
    for quantity in ("liquid_pressure", "discharge_pressure", "suction_pressure", "standing_pressure"):
        read = view.get(quantity)
        if read is None or saturation.covers_pressure(read.value):
            continue
        if read.value > saturation.highest_pressure_pa:
            words = f"{{read}} is above the table of {name}: no superheat or subcooling from it. Nothing runs at this."
            if view.unit.refrigerant.apart == "carbon_dioxide":
                words = f"{{read}} is above the critical pressure of {name}: no saturation there. The maker's chart decides."
        elif quantity == "standing_pressure":
            words = f"{{read}} standing is below the table of {name}: no liquid is left. Find the leak before anything goes in."
        else:
            words = f"{{read}} is below the table of {name}: starved, pumped down or in a vacuum. No superheat from it."
        yield Oddity("pressure_beyond_table", Phrase(words, {"read": ("pressure", read.value)}), (quantity,))


def _no_liquid(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    found = find_no_liquid(view, derived)
    if found:
        yield Oddity("no_liquid", found.phrase, found.readings)


def _mixed_air(view: CircuitView) -> Iterator[Oddity]:
    mixed, back, outdoor = view.get("mixed_air_temp"), view.get("return_air_temp"), view.get("outdoor_air_temp")
    if not (mixed and back and outdoor):
        return
    cooler, warmer = sorted((back, outdoor), key=lambda one: one.value)
    over, under = mixed - warmer, cooler - mixed
    if over.value > over.uncertainty or under.value > under.uncertainty:
        yield Oddity(
            "mixed_air_not_between",
            Phrase(
                "Mixed air at {mixed} lies outside return and outdoor air, {back} and {outdoor}: is it read behind the damper, "
                "before the coil, in the middle of the stream?",
                {"mixed": _t(mixed.value), "back": _t(back.value), "outdoor": _t(outdoor.value)},
            ),
            ("mixed_air_temp", "return_air_temp", "outdoor_air_temp"),
        )


def _moist_air(view: CircuitView) -> Iterator[Oddity]:
    for place, dry_name, wet_name in MOIST_PAIRS:
        dry, wet = view.get(dry_name), view.get(wet_name)
        if dry and wet and wet.value > dry.value:
            over = wet - dry
            yield Oddity(
                "wet_bulb_above_dry_bulb",
                Phrase(
                    f"{place} wet bulb reads {{over}} above the dry bulb: the air is saturated, or a probe reads off. Put both "
                    "side by side.",
                    {"over": ("difference", over.value)},
                ),
                (wet_name, dry_name),
                holds=over.value > over.uncertainty,
            )


def _stages(view: CircuitView) -> Iterator[Oddity]:
    if view.mixed_stages:
        names = " and ".join(view.mixed_stages)
        yield Oddity(
            "stage_mixed",
            Phrase(f"Read in stages {names}, in none of them enough: hold one stage, read both pressures and lines in it."),
            tuple(name for name in view.missing_readings),
        )


def _liquid_line(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    gap = derived.get("subcooling")
    if gap and gap.value + gap.uncertainty < 0:
        yield Oddity(
            "liquid_line_above_saturation",
            Phrase(
                "The liquid line is {gap} warmer than its bubble point: clamp on the hot-gas line, in the sun or "
                "after another part; refrigerant, gauge or elevation wrong; or it is not all liquid.",
                {"gap": ("difference", -gap.value)},
            ),
            gap.measured.sources,
        )
    approach = derived.get("liquid_approach")
    if approach and approach.value <= 0:
        yield Oddity(
            "approach_not_positive",
            Phrase(
                "The liquid line is not warmer than the air that cools it ({gap}): check both sensors, sun on the "
                "air probe first.",
                {"gap": ("difference", approach.value)},
            ),
            approach.measured.sources,
        )


def _flashing(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    """Liquid warmed on its way until nothing of its subcooling is left: the coil starves, whatever the charge (R80)."""
    start, bubble, subcooling = view.get("liquid_line_temp"), derived.get("condensing_bubble"), derived.get("subcooling")
    if not (start and bubble and subcooling) or subcooling.value <= subcooling.uncertainty:
        return
    for name in ("valve_inlet_temp", "drier_inlet_temp"):
        end = view.get(name)
        if end is None:
            continue
        gained, left = end - start, bubble.measured - end
        if gained.value > gained.uncertainty and left.value <= left.uncertainty:
            arrives = "{left} of subcooling" if left.value > 0 else "no subcooling"
            yield Oddity(
                "liquid_flashes",
                Phrase(
                    f"The liquid line gains {{gained}} on its way and arrives with {arrives}: it flashes before it is metered, "
                    "and the coil starves whatever the charge. Insulate it, or lead it out of the hot air.",
                    {"gained": ("difference", gained.value), "left": ("difference", left.value)},
                ),
                (name, "liquid_line_temp"),
            )
            return


def _air(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    split = derived.get("air_split")
    if split and not view.unit.heating and split.value + split.uncertainty < 0:
        yield Oddity(
            "supply_warmer_than_return",
            Phrase(
                "Supply air is {gap} warmer than return air in cooling: probes swapped, or heat is on.",
                {"gap": ("difference", -split.value)},
            ),
            split.measured.sources,
        )
    outdoor, leaving = view.get("outdoor_air_temp"), view.get("condenser_leaving_air_temp")
    witnesses = [one for one in (leaving, view.get("liquid_line_temp")) if one and outdoor and one.value > outdoor.value]
    if outdoor and outdoor.value > to_kelvin(125) and not witnesses:
        yield _hot_probe(outdoor, ())
    elif outdoor and leaving and not view.unit.heating and (leaving - outdoor).value < -(leaving - outdoor).uncertainty:
        yield _hot_probe(outdoor, leaving.sources)


def _hot_probe(outdoor: Measured, others: tuple[str, ...]) -> Oddity:
    return Oddity(
        "outdoor_probe_hot",
        Phrase(
            "Outdoor air at {air} is hotter than the rest allows: shade the probe, off the roof, in the air that "
            "enters the coil.",
            {"air": _t(outdoor.value)},
        ),
        (*outdoor.sources, *others),
    )


def _condensing(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    split = derived.get("condenser_split")
    if split and split.value + split.uncertainty < 0:
        yield Oddity(
            "condensing_below_outdoor",
            Phrase(
                "Condensing saturation is {gap} below the air that cools it: hoses swapped, unit off, or the "
                "refrigerant is another.",
                {"gap": ("difference", -split.value)},
            ),
            split.measured.sources,
        )


def _pressures(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    low, high = view.get("suction_pressure"), view.high_pressure
    if low and high and (low - high).value > (low - high).uncertainty:
        yield Oddity(
            "low_side_above_high_side",
            Phrase(
                "Suction {low} is above the high side, {high}: hoses swapped, or the two fields.",
                {"low": ("pressure", low.value), "high": ("pressure", high.value)},
            ),
            (*low.sources, *high.sources),
        )
    suction, outdoor = derived.get("suction_saturation"), view.get("outdoor_air_temp")
    if view.unit.heating and suction and outdoor and suction.value > outdoor.value + suction.uncertainty:
        yield Oddity(
            "vapour_valve_in_heating",
            Phrase(
                "'Suction' saturates at {dew}, above outdoor air: in heating the large service valve carries "
                "discharge gas. Read suction at the common suction port.",
                {"dew": _t(suction.value)},
            ),
            (*suction.measured.sources, "outdoor_air_temp"),
        )


def _static(view: CircuitView, derived: Mapping[str, Derived]) -> Iterator[Oddity]:
    for name, wrong_sign, what in (
        ("external_static_supply", -1, "Supply static is negative"),
        ("external_static_return", 1, "Return static is positive"),
    ):
        read = view.get(name)
        if read and read.value * wrong_sign > read.uncertainty:
            yield Oddity(
                "static_sign",
                Phrase(
                    f"{what} ({{value}}): written without its sign, tubes swapped, or really so?",
                    {"value": ("static", read.value)},
                ),
                (name,),
            )
            return
    static = derived.get("external_static")
    if static is None or view.unit.kind.is_walk_in:
        return
    numbers = {"static": ("static", static.value), "high": ("static", USUAL_LIMIT_PA)}
    if static.value - static.uncertainty > USUAL_LIMIT_PA:
        words = "External static {static} is above {high}, what most labels allow: filter, coil, dampers, registers."
        yield Oddity("static_high", Phrase(words, numbers), static.measured.sources)
    elif static.value + static.uncertainty < LOW_PA:
        words = "External static {static} is too low to be right: filter missing, panel open, slow blower, a probe misplaced?"
        yield Oddity("static_low", Phrase(words, numbers), static.measured.sources)


def _instruments(view: CircuitView) -> Iterator[Oddity]:
    for readings in view.disagreeing:
        quantity = QUANTITIES[readings[0].quantity]
        low, high = (pick(reading.value_si for reading in readings) for pick in (min, max))
        yield Oddity(
            "instruments_disagree",
            Phrase(
                f"Two instruments on {quantity.label.lower()} disagree beyond their accuracy, {{low}} and {{high}}: "
                "neither is used until one is explained.",
                {"low": (quantity.dimension, low), "high": (quantity.dimension, high)},
            ),
            (quantity.name,),
        )
