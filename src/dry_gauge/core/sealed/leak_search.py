"""Where to search for a leak first, with what, and what spoils the method. Likeliest and easiest places come first."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass

from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Kind, State


@dataclass(frozen=True, slots=True)
class LeakPlace:
    """Somewhere that leaks.

    Parameters
    ----------
    spot : str
        Place on the loop drawing.
    weight : float
        How often it is the one, against the others. Habits, not counts.
    ages : bool
        Whether years make it likelier.
    opened : bool
        Whether someone's work there makes it likelier.
    side : str
        ``low`` or ``high``.
    part : str
        The part whose own years count, if it was put in later than the unit; see `part_named`.
    only : str
        ``box``, ``split`` or ``receiver``, where only those have it.
    """

    code: str
    label: str
    spot: str
    weight: float
    ages: bool = False
    opened: bool = False
    side: str = "high"
    part: str = ""
    only: str = ""


PLACES = (
    LeakPlace("service_cores", "Service valve cores and caps", "suction", 3.0, opened=True, side="low"),
    LeakPlace("flares", "Flares and field joints", "liquid", 2.6, opened=True, only="split"),
    LeakPlace("evaporator_bends", "Evaporator return bends and distributor", "evaporator", 2.4, ages=True, side="low",
              part="evaporator"),
    LeakPlace("evaporator_face", "Evaporator tubes, between the fins", "evaporator", 1.8, ages=True, side="low",
              part="evaporator"),
    LeakPlace("condenser_bends", "Condenser return bends and headers", "condenser", 1.5, ages=True, part="condenser"),
    LeakPlace("rubbing", "Tubes that rub: capillaries, sensing lines, panels", "compressor", 1.6, ages=True),
    LeakPlace("metering", "Metering device and its joints", "liquid", 1.2, opened=True, part="metering"),
    LeakPlace("drier", "Drier and sight glass joints", "liquid", 1.3, opened=True, part="drier"),
    LeakPlace("suction_joints", "Suction line joints and earlier repairs", "suction", 1.4, opened=True, side="low"),
    LeakPlace("compressor_bolts", "Compressor: terminals, bolts, rotolock seals", "compressor", 1.0, ages=True,
              part="compressor"),
    LeakPlace("receiver", "Receiver: valves, relief, king valve packing", "liquid", 1.2, ages=True, part="receiver",
              only="receiver"),
    LeakPlace("pressure_switches", "Switch and sensor tubes", "compressor", 1.1, ages=True, only="box"),
    LeakPlace("line_set", "Line set: where it passes walls, hangers, feet", "suction", 0.9, ages=True, side="low",
              part="line_set", only="split"),
)  # fmt: skip
BY_CODE: Mapping[str, LeakPlace] = {place.code: place for place in PLACES}


@dataclass(frozen=True, slots=True)
class Ranked:
    """A place, its share of the search, and why it stands there."""

    place: LeakPlace
    share: float
    why: tuple[str, ...]


_SPLITS = (Kind.SPLIT_AC, Kind.SPLIT_HEAT_PUMP, Kind.WALK_IN_COOLER, Kind.WALK_IN_FREEZER)
_OLD_YEARS = 8
_NEW_YEARS = 1.0
"""A part that came in so lately brought new joints with it, which leak like any that were opened."""

_NO_PART_OF_IT = (
    "fan", "motor", "blade", "contactor", "capacitor", "relay", "control", "board", "sensor", "switch", "belt", "heater", "pan",
    "panel",
)  # fmt: skip
_PARTS = (
    ("evaporator", ("evaporator", "indoor coil", "cooling coil")), ("condenser", ("condenser", "outdoor coil")),
    ("compressor", ("compressor",)), ("drier", ("drier", "dryer", "sight glass")), ("receiver", ("receiver",)),
    ("line_set", ("line set", "lineset")), ("metering", ("expansion valve", "txv", "eev", "metering", "piston", "capillary")),
)  # fmt: skip


def part_named(what: str) -> str:
    """Which part that holds refrigerant a register's words mean; empty where none, as of a condenser's fan motor."""
    words = what.lower()
    if any(other in words for other in _NO_PART_OF_IT):
        return ""
    return next((part for part, names in _PARTS if any(name in words for name in names)), "")


def ranked_places(
    facts: UnitFacts,
    states: Mapping[str, State],
    age_years: float | None = None,
    oil_at: Collection[str] = (),
    leaked_before: Collection[str] = (),
    passed: Collection[str] = (),
    part_years: Mapping[str, float] | None = None,
) -> tuple[Ranked, ...]:
    """Places of this unit, likeliest first; those that passed come last.

    Parameters
    ----------
    age_years : float or None
        Of the unit.
    oil_at : collection of str
        Spots on the loop with oil: that is where refrigerant left.
    leaked_before : collection of str
        Codes of places with a leak on record.
    part_years : mapping of str to float or None
        How long parts are in that were put in later than the unit was made, by `part_named`. Their years count, not the unit's.
    """
    opened = any(states.get(name) is State.YES for name in ("recently_opened", "recently_charged", "earlier_repair"))
    rows = []
    for place in PLACES:
        if not _has(place, facts):
            continue
        weight = place.weight
        why: list[str] = []
        if place.spot in oil_at:
            weight, why = weight * 6, [*why, "oil seen here"]
        years_in = (part_years or {}).get(place.part)
        if place.code in leaked_before:
            weight, why = weight * 4, [*why, "leaked before"]
        if place.opened and opened:
            weight, why = weight * 2, [*why, "opened lately"]
        if years_in is not None and years_in < _NEW_YEARS:
            weight, why = weight * 2, [*why, "put in lately: new joints"]
        years = age_years if years_in is None else years_in
        if place.ages and years is not None and years >= _OLD_YEARS:
            weight, why = weight * 1.6, [*why, f"{years:.0f} years old"]
        elif place.ages and years_in is not None and age_years is not None and age_years >= _OLD_YEARS:
            why = [*why, f"only {years_in:.0f} years old" if years_in >= _NEW_YEARS else "younger than the unit"]
        if place.code in passed:
            weight, why = weight * 0.1, [*why, "passed"]
        rows.append((weight, place, tuple(why)))
    total = sum(weight for weight, _, _ in rows)
    rows.sort(key=lambda row: -row[0])
    return tuple(Ranked(place, weight / total, why) for weight, place, why in rows)


def _has(place: LeakPlace, facts: UnitFacts) -> bool:
    match place.only:
        case "box":
            return facts.kind.is_walk_in
        case "split":
            return facts.kind in _SPLITS
        case "receiver":
            return facts.receiver
        case _:
            return True


@dataclass(frozen=True, slots=True)
class Method:
    """A way to search, and its limits."""

    code: str
    label: str
    limits: str
    spoilt_by: frozenset[str] = frozenset()


METHODS = (
    Method("electronic", "Electronic detector", "Let it warm up, prove it on a known source, move slowly, below the joint. Wind "
           "and cleaner vapors defeat it; shut fans off.", frozenset({"wind", "vapours"})),
    Method("bubbles", "Bubbles", "Confirms; needs pressure inside and a place that can be seen. Wait a minute: small leaks foam "
           "slowly. Wipe off afterwards.", frozenset({"hidden", "no_pressure"})),
    Method("nitrogen", "Nitrogen and bubbles", "Higher pressure shows what running pressure hides; label's limit. Not with "
           "refrigerant that is to be kept.", frozenset({"hidden"})),
    Method("ultrasonic", "Listening, ultrasonic", "Finds what hisses; noise of fans and streets drowns it.",
           frozenset({"noise"})),
    Method("dye", "Dye", "For leaks that hide from all else: needs days of running, and the maker's consent.",
           frozenset({"not_running"})),
    Method("hold", "Hold by sections", "Says which part leaks where nothing can be seen; takes hours.", frozenset()),
)  # fmt: skip
METHOD_WORDS = {method.code: method.label for method in METHODS}


def usable_methods(conditions: Collection[str]) -> tuple[tuple[Method, bool], ...]:
    """Every method, and whether these conditions (wind, noise, hidden, vapours, no_pressure, not_running) leave it any use."""
    found = [(method, not method.spoilt_by & set(conditions)) for method in METHODS]
    return tuple(sorted(found, key=lambda one: not one[1]))
