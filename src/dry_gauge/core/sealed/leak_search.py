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
    """

    code: str
    label: str
    spot: str
    weight: float
    ages: bool = False
    opened: bool = False
    side: str = "high"
    only: str = ""
    """``box``, ``split`` or ``receiver``, where only those have it."""


PLACES = (
    LeakPlace("service_cores", "Service valve cores and caps", "suction", 3.0, opened=True, side="low"),
    LeakPlace("flares", "Flares and field joints", "liquid", 2.6, opened=True, only="split"),
    LeakPlace("evaporator_bends", "Evaporator return bends and distributor", "evaporator", 2.4, ages=True, side="low"),
    LeakPlace("evaporator_face", "Evaporator tubes, between the fins", "evaporator", 1.8, ages=True, side="low"),
    LeakPlace("condenser_bends", "Condenser return bends and headers", "condenser", 1.5, ages=True),
    LeakPlace("rubbing", "Tubes that rub: capillaries, sensing lines, panels", "compressor", 1.6, ages=True),
    LeakPlace("metering", "Metering device and its joints", "liquid", 1.2, opened=True),
    LeakPlace("drier", "Drier and sight glass joints", "liquid", 1.3, opened=True),
    LeakPlace("suction_joints", "Suction line joints and earlier repairs", "suction", 1.4, opened=True, side="low"),
    LeakPlace("compressor_bolts", "Compressor: terminals, bolts, rotolock seals", "compressor", 1.0, ages=True),
    LeakPlace("receiver", "Receiver: valves, relief, king valve packing", "liquid", 1.2, ages=True, only="receiver"),
    LeakPlace("pressure_switches", "Switch and sensor tubes", "compressor", 1.1, ages=True, only="box"),
    LeakPlace("line_set", "Line set: where it passes walls, hangers, feet", "suction", 0.9, ages=True, side="low", only="split"),
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


def ranked_places(
    facts: UnitFacts, states: Mapping[str, State], age_years: float | None = None, oil_at: Collection[str] = (),
    leaked_before: Collection[str] = (), passed: Collection[str] = (),
) -> tuple[Ranked, ...]:  # fmt: skip
    """Places of this unit, likeliest first; those that passed come last.

    Parameters
    ----------
    age_years : float or None
        Of the unit.
    oil_at : collection of str
        Spots on the loop with oil: that is where refrigerant left.
    leaked_before : collection of str
        Codes of places with a leak on record.
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
        if place.code in leaked_before:
            weight, why = weight * 4, [*why, "leaked before"]
        if place.opened and opened:
            weight, why = weight * 2, [*why, "opened lately"]
        if place.ages and age_years is not None and age_years >= _OLD_YEARS:
            weight, why = weight * 1.6, [*why, f"{age_years:.0f} years old"]
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
           "and cleaner vapours defeat it; shut fans off.", frozenset({"wind", "vapours"})),
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
