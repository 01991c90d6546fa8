"""Options as an owner reads them: what each costs, leaves open and risks, and what the choice hinges on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dry_gauge.core.office.offer import Offer, Weighed
from dry_gauge.core.office.replacement import SEA_TAKES_YEARS, USUAL_LIFE, Outlook, PayBack
from dry_gauge.core.statements import Money, Share, Statement
from dry_gauge.core.vocabulary import Fault
from dry_gauge.notebook.subjects.findings import findings_in
from dry_gauge.notebook.subjects.leak import Leaks
from dry_gauge.present.closing import causes_named
from dry_gauge.present.visit import VisitView

RISKS = ("old", "gone", "shrinking", "compressor", "leak", "declined")
"""What an owner is told of a choice before signing it."""


@dataclass(frozen=True, slots=True)
class OptionShown:
    """One option with what is said of it; `risks` are names among `RISKS`."""

    weighed: Weighed
    facts: Sequence[Statement]
    risks: Sequence[str]


@dataclass(frozen=True, slots=True)
class OfferShown:
    """The options, what the choice hinges on, and what is assumed."""

    options: Sequence[OptionShown]
    hinge: Sequence[Statement]
    notes: Sequence[Statement]
    declined: Sequence[str]


def offer_shown(offer: Offer) -> OfferShown:
    """Every option in sentences."""
    return OfferShown(
        [OptionShown(one, _facts(one, offer), _risks(one, offer)) for one in offer.options],
        _hinge(offer),
        _notes(offer),
        ["declined", *_lasting(offer)],
    )


def risks_found(view: VisitView) -> tuple[str, ...]:
    """What a visit found that stays a risk unless the unit is replaced."""
    named = {one.fault for one in causes_named(view)} | {Fault.NONE}
    seen = {one.what for one in findings_in(view.state)}
    found = {
        "compressor": Fault.INEFFICIENT_COMPRESSOR in named or "compressor_not_pumping" in seen,
        "leak": bool(view.state[Leaks].to_mend),
    }
    return tuple(name for name, so in found.items() if so)


def _facts(one: Weighed, offer: Offer) -> list[Statement]:
    found = []
    if one.share_of_new is not None:
        found.append(Statement("opt-share", {"share": Share(one.share_of_new)}))
        if one.share_of_new >= offer.facts.school.share:
            found.append(Statement("opt-think-twice", {"share": Share(offer.facts.school.share)}))
    if one.energy is not None:
        low, high = one.energy
        found.append(Statement("opt-energy", {"low": Money(low), "high": Money(high)}))
    if not one.is_new:
        age = offer.facts.age_years
        if age is not None:
            early, late = USUAL_LIFE[offer.facts.kind]
            sea = SEA_TAKES_YEARS if offer.facts.by_the_sea else 0
            found.append(Statement("opt-age", {"age": round(age), "low": early - sea, "high": late - sea}))
        if offer.facts.failures:
            found.append(Statement("opt-failures", {"times": offer.facts.failures}))
    return found


def _lasting(offer: Offer) -> list[str]:
    """Risks of keeping the unit."""
    old = offer.left_years is not None and offer.left_years[0] == 0
    return ["old"] * old + ([] if offer.outlook is Outlook.STAYS else [offer.outlook.value]) + list(offer.facts.risks)


def _risks(one: Weighed, offer: Offer) -> list[str]:
    return [] if one.is_new else _lasting(offer)


def _hinge(offer: Offer) -> list[Statement]:
    found = [] if offer.hinge is None else [_paid_back(offer.hinge)]
    if offer.repair is not None and offer.left_years is not None:
        low, high = offer.left_years
        found.append(Statement("hinge-life", {"low": round(low), "high": round(high)}) if high else Statement("hinge-over"))
    return found


def _paid_back(hinge: PayBack) -> Statement:
    more, (low, high) = Money(hinge.more), hinge.saves
    if hinge.years is None:
        return Statement("hinge-never", {"more": more})
    first, last = hinge.years
    if last is None:
        return Statement("hinge-perhaps", {"more": more, "high": Money(high), "first": round(first)})
    years = {"first": round(first), "last": round(last)}
    return Statement("hinge-pays", {"more": more, "low": Money(low), "high": Money(high), **years})


def _notes(offer: Offer) -> list[Statement]:
    if not any(one.energy for one in offer.options):
        return []
    hours, cents = offer.facts.hours, offer.facts.cents_kwh
    return [
        Statement(
            "note-energy",
            {"first": round(hours[0]), "last": round(hours[1]), "low": Money(round(cents[0])), "high": Money(round(cents[1]))},
        )
    ]
