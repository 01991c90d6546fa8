"""The visit as its owner reads it: what they asked, what was found, done and measured, what stays, what is advised.

Only sentences by name (`core.statements`), so that every language says the same. Nothing here that the notebook does not hold.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from uuid import UUID

from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.circuit import Derived
from dry_gauge.core.judgement.assess import CALLED_FROM, CircuitAssessment
from dry_gauge.core.statements import Amount, Share, Statement
from dry_gauge.core.target import OF_LABEL_OR_MAKER, Target
from dry_gauge.core.vocabulary import Fault
from dry_gauge.notebook.kind import in_time
from dry_gauge.notebook.subjects.actions import Actions, ActionSort
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.notebook.subjects.call import Call
from dry_gauge.notebook.subjects.cleaning import Cleaning, CleaningStep
from dry_gauge.notebook.subjects.closing import Closing, Outcome, before_leaving
from dry_gauge.notebook.subjects.control_chain import ControlChain
from dry_gauge.notebook.subjects.failed_tests import FailedTests, repeat_of
from dry_gauge.notebook.subjects.findings import Finding, FindingWay, findings_in
from dry_gauge.notebook.subjects.hold import Holds
from dry_gauge.notebook.subjects.leak import Leaks
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.movements import Charge, moved_in, standing_of
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.remarks import Remarks
from dry_gauge.notebook.subjects.vacuum import Vacuum
from dry_gauge.present.closing import causes_named
from dry_gauge.present.visit import VisitView, judged_before, judged_otherwise

GAPS = ("air_split", "superheat", "subcooling", "evaporator_td", "condenser_split")
"""Gaps that mean something to an owner, the plainest first."""
_DANGERS = frozenset({"heat_exchanger_cracked", "carbon_monoxide", "refrigerant_indoors"})
# What each finding or cause asks of an owner: habits of the trade, stated so that they can be argued with.
_ADVICE: Mapping[str, str] = {
    **dict.fromkeys(("filter_dirty", "filter_missing", "low_evaporator_airflow", "ice_on_evaporator_even"), "filter"),
    **dict.fromkeys(("condenser_dirty", "evaporator_dirty"), "coil"),
    **dict.fromkeys(("low_condenser_airflow", "condenser_air_recirculating", "damper_closed"), "air"),
    **dict.fromkeys(("oil_stain", "undercharge", "tubes_rubbing", "refrigerant_indoors"), "leak"),
    **dict.fromkeys(("overcharge", "non_condensables", "wrong_refrigerant"), "overfull"),
    **dict.fromkeys(("inefficient_compressor", "compressor_not_pumping"), "compressor"),
    **dict.fromkeys(("liquid_line_restriction", "metering_underfeeding", "metering_overfeeding"), "block"),
    **dict.fromkeys(("blade_unsafe", "bearing_worn", "condenser_fan_stopped", "blower_stopped"), "fan"),
    **dict.fromkeys(("rotation_reversed", "ground_missing", "burnt_parts", "water_at_electrics"), "power"),
    **dict.fromkeys(("safety_bridged", "heat_exchanger_cracked", "carbon_monoxide"), "safety"),
    "drain_blocked": "drain",
    "high_evaporator_load": "heat",
}  # fmt: skip
# Left open, they keep 'fixed' from being 'tested'.
_UNPROVEN = frozenset({"failed", "unproven", "no_test", "look_again"})
ADVICE = frozenset(_ADVICE.values())


@dataclass(frozen=True, slots=True)
class Found:
    """One thing that was found, and how it stands."""

    what: Statement
    stands: Statement | None


@dataclass(frozen=True, slots=True)
class Number:
    """One number with what it should be; `tells` is the name of the sentence that compares the two.

    Parameters
    ----------
    circuit : int or None
        Where there are several.
    mode : str
        Of a heat pump that was read in both: cooling or heating.
    source : str
        The name of the sentence that says where the target comes from.
    """

    what: Statement
    circuit: int | None
    before: Amount | None
    now: Amount | None
    should: Statement
    source: str
    tells: str
    mode: str = ""


@dataclass(frozen=True, slots=True)
class OwnWords:
    """A sentence of ours, and the technician's own words to it."""

    what: Statement
    words: str = ""


@dataclass(frozen=True, slots=True)
class OwnerReport:
    """Everything that the report says; an empty list was not so."""

    answer: Statement
    draft: bool
    asked: Sequence[Statement]
    safety: Sequence[Statement]
    found: Sequence[Found]
    done: Sequence[OwnWords]
    numbers: Sequence[Number]
    open: Sequence[Statement]
    next: Sequence[OwnWords]
    advice: Sequence[Statement]
    pictures: Sequence[tuple[UUID, str]]


def owner_report(view: VisitView, pictures: Collection[UUID] = ()) -> OwnerReport:
    """The report as the notebook stands.

    Parameters
    ----------
    pictures : collection of UUID
        Photos of the visit that were chosen for it.
    """
    closing = view.state[Closing].closing
    outcome = closing.body.outcome if closing else None
    answer = outcome.value if outcome else view.visit.outcome or ("closed" if view.visit.status == "closed" else "open")
    left = list(dict.fromkeys(one.code for one in before_leaving(view.state, view.assessment, fixed=outcome is Outcome.FIXED)))
    booked = in_time(one for one in view.state[Agenda].follow_ups.values() if one.open)
    photos = {one.body.photo: one.body.caption for one in in_time(view.state[Remarks].photos.values())}
    proven = _proven(view)
    if outcome is Outcome.FIXED and (not proven or _UNPROVEN & set(left)):
        answer = "not-tested"
    return OwnerReport(
        Statement(f"outcome-{answer}"),
        view.visit.status != "closed",
        _asked(view),
        _safety(view, left),
        _found(view),
        [*_done(view), *proven],
        list(_numbers(view)),
        [Statement(f"open-{code}") for code in left],
        [OwnWords(Statement(f"next-{one.body.sort.value}", {"day": one.body.due}), one.body.what) for one in booked],
        [Statement(f"advice-{name}") for name in _advised(view)],
        [(photo, caption) for photo, caption in photos.items() if photo in pictures],
    )


def _asked(view: VisitView) -> list[Statement]:
    typed = view.state[Call].complaint
    words = typed.body.words if typed else view.visit.complaint
    asked = [Statement(f"asked-{sort.value}") for sort in (typed.body.sorts if typed else ())]
    return asked + ([Statement("quoted", {"words": words})] if words else [])


def _safety(view: VisitView, left: Sequence[str]) -> list[Statement]:
    ledger = view.state[Ledger]
    stops = any(circuit.stops for circuit in view.assessment.circuits.values()) if view.assessment else False
    danger = any(one.what in _DANGERS and not one.mended for one in findings_in(view.state))
    found = {
        "safe-tagged": bool(ledger.red_tags),
        "safe-locked": ledger.locked,
        "safe-stop": stops,
        "safe-danger": danger,
        "safe-food": "food" in left,
    }
    return [Statement(name) for name, so in found.items() if so]


def _found(view: VisitView) -> list[Found]:
    safe = bool(view.state[Ledger].locked or view.state[Ledger].red_tags)
    found = []
    for one in findings_in(view.state):
        sort = "cause" if one.what in set(Fault) else "seen"
        found.append(Found(Statement(f"{sort}-{one.what}"), _how_it_stands(one, safe)))
    found += _causes(view)
    cures = view.state[Leaks].cures
    for leak in in_time(one for one in view.state[Leaks].places.values() if one.body.result == "failed"):
        stands = "end-mended" if str(leak.entry_id) in cures else "end-open"
        found.append(Found(Statement("leak-at", {"place": _place(leak.body.place)}), Statement(stands)))
    chain = view.state[ControlChain]
    for link in in_time(chain.opened.values()):
        stands = "end-open" if link in chain.still_open else "end-mended"
        found.append(Found(Statement("open-link-found", {"part": link.body.link}), Statement(stands)))
    if not found and not safe and view.assessment and all(one.verdict == "healthy" for one in view.assessment.circuits.values()):
        found.append(Found(Statement("cause-none"), None))
    return found


# Nobody who reads a unit's numbers is surer than that.
_SUREST = 0.99


def _causes(view: VisitView) -> Iterator[Found]:
    """What the readings were called: as it was, where what was read since the repair does not show it any more."""
    circuits = view.assessment.circuits.values() if view.assessment else ()
    still = {one.causes[0].fault for one in circuits if one.causes[0].probability >= CALLED_FROM}
    repaired = judged_before(view) is not None
    for cause in causes_named(view):
        past, share = repaired and cause.fault not in still, Share(min(cause.probability, _SUREST))
        sure = Statement("how-sure-then" if past else "how-sure", {"share": share})
        yield Found(Statement(f"{'was' if past else 'cause'}-{cause.fault.value}"), sure)


def _how_it_stands(one: Finding, safe: bool) -> Statement:
    if one.mended:
        return Statement("end-mended")
    if one.left is not None and one.left.body.way is FindingWay.ACCEPTED:
        return Statement("end-accepted", {"why": one.left.body.reason})
    if one.left is not None:
        return Statement("end-booked")
    return Statement("end-safe" if one.firm and safe else "end-open")


_PLACES_SAID = frozenset(
    {
        "service_cores",
        "flares",
        "evaporator_bends",
        "evaporator_face",
        "condenser_bends",
        "rubbing",
        "metering",
        "drier",
        "suction_joints",
        "compressor_bolts",
        "receiver",
        "pressure_switches",
        "line_set",
    }
)


def _place(code: str) -> Statement:
    return Statement(f"place-{code}") if code in _PLACES_SAID else Statement("place-other", {"words": code.replace("_", " ")})


def _done(view: VisitView) -> list[OwnWords]:
    actions = in_time(view.state[Actions].done.values())
    # A coil that was washed step by step also says that it was cleaned.
    done = [OwnWords(Statement(f"did-{one.body.sort.value}"), one.body.words) for one in actions]
    washed = [one for one in view.state[Cleaning].cleanings.values() if one.ended is CleaningStep.DONE]
    cleaned = {ActionSort.CONDENSER_CLEANED, ActionSort.EVAPORATOR_CLEANED} & {one.body.sort for one in actions}
    if washed and not cleaned:
        done.append(OwnWords(Statement("did-cleaned-coil")))
    places = {str(one.entry_id): one.body.place for one in view.state[Leaks].places.values()}
    for leak, cure in view.state[Leaks].cures.items():
        done.append(OwnWords(Statement(f"cured-{cure.body.cure}", {"place": _place(places.get(leak, ""))}), cure.body.part))
    done += [
        OwnWords(Statement("link-closed", {"part": one.body.link}), one.body.how)
        for one in in_time(view.state[ControlChain].closed.values())
    ]
    done += [
        OwnWords(Statement("switch-reset", {"part": one.body.switch}))
        for one in in_time(view.state[Ledger].trips.values())
        if one.body.event == "reset"
    ]
    for number, way, grams in moved_in(view.state[Charge]):
        amount, fluid = Amount("weight", grams * GRAM_KG), view.facts.of_circuit(number).refrigerant.name
        done.append(OwnWords(Statement(f"moved-{way.value}", {"amount": amount, "fluid": fluid})))
    held = [one.verdict for one in in_time(view.state[Holds].holds.values()) if not one.open]
    done += [OwnWords(Statement(f"held-{verdict}")) for verdict in held if verdict]
    if any(not one.open for one in view.state[Vacuum].of_system):
        done.append(OwnWords(Statement("emptied")))
    return done


def _proven(view: VisitView) -> list[OwnWords]:
    repeats = [repeat_of(view.state, test, view.facts) for test in in_time(view.state[FailedTests].tests.values())]
    return [OwnWords(_proved(one.test.body.quantity)) for one in repeats if one.passed]


def _proved(quantity: str) -> Statement:
    return Statement("proved-of", {"what": Statement(f"gap-{quantity}")}) if quantity in GAPS else Statement("proved")


def _advised(view: VisitView) -> list[str]:
    found = [one.what for one in findings_in(view.state)] + [one.fault.value for one in causes_named(view)]
    leaks = [one for one in view.state[Leaks].places.values() if one.body.result == "failed"]
    return list(dict.fromkeys([_ADVICE[what] for what in found if what in _ADVICE] + (["leak"] if leaks else [])))


# -- numbers ---------------------------------------------------------------


def _numbers(view: VisitView) -> Iterator[Number]:
    now = view.assessment if view.state[Readings].latest else None
    before, otherwise = judged_before(view), judged_otherwise(view)
    several, mode = len(view.circuits) > 1, view.facts.mode
    for number in sorted({*(now.circuits if now else ()), *(before.circuits if before else ())}):
        shown = now.circuits.get(number) if now else None
        then = before.circuits.get(number) if before else None
        for name in GAPS:
            found = _gap(name, shown, then)
            if found is not None:
                yield replace(found, circuit=number if several else None, mode=mode.value if otherwise else "")
    for number, circuit in otherwise.circuits.items() if otherwise else ():
        for found in filter(None, (_gap(name, circuit, None) for name in GAPS)):
            yield replace(found, circuit=number if several else None, mode=mode.other.value)
    if now is not None:
        yield from _box(view, now.first)
        for number, circuit in now.circuits.items():
            yield from (replace(one, circuit=number if several else None) for one in _plain(view, circuit))


def _gap(name: str, now: CircuitAssessment | None, then: CircuitAssessment | None) -> Number | None:
    """One gap after the work beside what it was; None where it was not read, or has no target."""
    derived, earlier = (one.derived.get(name) if one else None for one in (now, then))
    of = now if derived else then
    target = of.targets.get(name) if of else None
    if target is None or (derived is None and earlier is None):
        return None
    band = {"low": Amount("difference", target.low_k, bare=True), "high": Amount("difference", target.high_k)}
    should = Statement("at-most", {"most": band["high"]}) if target.high_side_only else Statement("between", band)
    return Number(
        Statement(f"gap-{name}"),
        None,
        _amount_of(earlier),
        _amount_of(derived),
        should,
        _source(target),
        _against(derived, target) if derived else "not-again",
    )


def _amount_of(derived: Derived | None) -> Amount | None:
    return None if derived is None else Amount("difference", derived.value, derived.uncertainty)


def _source(target: Target) -> str:
    if target.assumed:
        return "assumed"
    return "by-label" if target.rule in OF_LABEL_OR_MAKER else "by-rule"


def _against(derived: Derived, target: Target) -> str:
    """How a number compares with its band, unless what is not known of both could turn it."""
    open_k = (derived.uncertainty**2 + target.uncertainty_k**2) ** 0.5
    over, under = derived.value - target.high_k, target.low_k - derived.value
    if over <= 0 and (under <= 0 or target.high_side_only):
        return "tells-right"
    return "tells-unsure" if max(over, under) <= open_k else "tells-high" if over > 0 else "tells-low"


# An air sensor and a box's thermostat: how far from its design a box may read and still be right (habit).
_BOX_BAND_K = 2.0


def _box(view: VisitView, circuit: CircuitAssessment) -> Iterator[Number]:
    """The box: one for all its circuits."""
    box, aim = circuit.view.get("box_air_temp"), view.facts.design_box_k
    if box is not None and aim is not None:
        off = box.value - aim
        tells = "tells-right" if abs(off) <= _BOX_BAND_K else "tells-high" if off > 0 else "tells-low"
        yield Number(
            Statement("num-box"), None, None, Amount("temperature", box.value), _about("temperature", aim), "by-label", tells
        )


def _plain(view: VisitView, circuit: CircuitAssessment) -> Iterator[Number]:
    """Numbers that stand by themselves: the compressor's current, the charge by weight."""
    amps, rated = circuit.view.get("compressor_amps"), view.facts.rated_load_amps
    if amps is not None and rated is not None:
        tells = "tells-right" if amps.value <= rated else "tells-high"
        should = Statement("at-most", {"most": Amount("current", rated)})
        yield Number(Statement("num-amps"), None, None, Amount("current", amps.value), should, "by-label", tells)
    own = view.of_circuit(circuit.view.number)
    standing = standing_of(own.state, own.facts)
    if standing is not None:
        off = abs(standing.share - 1)
        tells = "tells-right" if off <= _CHARGE_BAND else "tells-high" if standing.share > 1 else "tells-low"
        inside, should = Amount("weight", standing.in_unit_kg), _about("weight", standing.target_kg)
        yield Number(Statement("num-charge"), None, None, inside, should, "by-label", tells)


# Share of the target within which a weighed charge is right: 1 oz in 3 lb, what scales and hoses leave open (habit).
_CHARGE_BAND = 0.02


def _about(dimension: str, aim_si: float) -> Statement:
    return Statement("about", {"aim": Amount(dimension, aim_si)})


def written_at(view: VisitView, now: datetime) -> datetime:
    """The day on which the notes stood so: of the last entry."""
    return view.state.written_at or now
