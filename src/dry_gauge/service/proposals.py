"""Options for an owner: put together from the price list, offered, and what was decided."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from uuid import UUID

import uuid6
from sqlalchemy import Connection

from dry_gauge.core.errors import Refused
from dry_gauge.core.office.offer import MOST_LINES, MOST_OPTIONS, Offer, OfferFacts, OfferLine, Option, OptionSort, weighed
from dry_gauge.core.office.replacement import age_years
from dry_gauge.core.office.signature import Signature, signature_of
from dry_gauge.core.season import SURROUNDING_WORDS, Surroundings
from dry_gauge.core.shop import ShopSettings
from dry_gauge.present.offer import offer_shown, risks_found
from dry_gauge.present.visit import VisitView
from dry_gauge.service import audit
from dry_gauge.service.allowed import trained
from dry_gauge.service.notebooks import load
from dry_gauge.service.settings import shop_settings
from dry_gauge.store import prices, proposals
from dry_gauge.store.follow_ups import open_follow_ups
from dry_gauge.store.people import Someone
from dry_gauge.store.proposals import Decision, Proposal
from dry_gauge.store.visits import find_unit

_YEARS_BACK = timedelta(days=3 * 365)


@dataclass(frozen=True, slots=True)
class Answer:
    """What somebody answers to an offer.

    Parameters
    ----------
    chosen : str
        The option's place, ``none``, or nothing.
    signature, typed
        As `signature.signature_of` takes them.
    """

    decision_id: UUID
    proposal_id: UUID | None
    chosen: str
    name: str
    signature: str
    typed: bool
    read: bool
    words: str = ""


class Changed(Exception):
    """The options are not those that were read any more."""


def offer_of(proposal: Proposal) -> Offer:
    """The options weighed by what the unit was when they were made."""
    return weighed([Option.model_validate(one) for one in proposal.options], OfferFacts.model_validate(proposal.facts))


def draft_of(connection: Connection, someone: Someone, visit_id: UUID, now: datetime) -> Proposal:
    """The draft to be changed: the one that is open, else a copy of what was offered last, else a new one.

    Raises
    ------
    NotHere, NotAllowed
    """
    trained(someone, "makes offers")
    view = load(connection, someone, visit_id)
    draft = proposals.latest_proposal(connection, visit_id, offered=False, lock=True)
    if draft is not None:
        return draft
    last = proposals.latest_proposal(connection, visit_id, offered=True)
    settings = shop_settings(connection)
    facts = facts_for(connection, view, settings, now)
    proposals.add_proposal(
        connection,
        shop_id=someone.shop_id,
        id=uuid6.uuid7(),
        visit_id=visit_id,
        person_id=someone.person_id,
        made_at=now,
        currency=settings.currency,
        options=last.options if last else [],
        facts=facts.model_dump(mode="json"),
    )
    made = proposals.latest_proposal(connection, visit_id, offered=False, lock=True)
    assert made is not None
    return made


def facts_for(connection: Connection, view: VisitView, settings: ShopSettings, now: datetime) -> OfferFacts:
    """What the options are weighed by: the card, the unit's past, the shop's settings, and what this visit found."""
    unit, facts = find_unit(connection, view.visit.unit_id), view.facts
    assert unit is not None
    left = open_follow_ups(connection, view.visit.unit_id)
    sea = any(SURROUNDING_WORDS[Surroundings.SEA] in row.what for row in left if row.sort == "season")
    return OfferFacts(
        kind=facts.kind,
        refrigerant=facts.refrigerant.name,
        age_years=age_years(unit.made_year, now.year),
        capacity_btuh=unit.facts.get("nominal_capacity_btuh"),
        seer=facts.seer,
        by_the_sea=sea,
        school=settings.share_school,
        failures=proposals.failures_of_unit(connection, view.visit.unit_id, now - _YEARS_BACK, now),
        hours=settings.hours,
        cents_kwh=settings.cents_kwh,
        risks=risks_found(view),
    )


def keep_option(connection: Connection, draft: Proposal, place: int | None, option: Option) -> None:
    """Add an option to a draft, or put it in place of one.

    Raises
    ------
    Refused
    """
    options = [Option.model_validate(one) for one in draft.options]
    if place is None:
        if len(options) >= MOST_OPTIONS:
            raise Refused(f"At most {MOST_OPTIONS} options stand side by side.", "sort")
        options.append(option)
    else:
        options[_place(options, place)] = option
    _keep(connection, draft, options)


def drop_option(connection: Connection, draft: Proposal, place: int) -> None:
    """Take an option out of a draft."""
    options = [Option.model_validate(one) for one in draft.options]
    options.pop(_place(options, place))
    _keep(connection, draft, options)


def add_line(connection: Connection, draft: Proposal, place: int, line: OfferLine) -> None:
    """Add a line to an option.

    Raises
    ------
    Refused
    """
    options = [Option.model_validate(one) for one in draft.options]
    option = options[_place(options, place)]
    if len(option.lines) >= MOST_LINES:
        raise Refused(f"An option has at most {MOST_LINES} lines.", "price")
    options[place] = option.model_copy(update={"lines": (*option.lines, line)})
    _keep(connection, draft, options)


def drop_line(connection: Connection, draft: Proposal, place: int, number: int) -> None:
    """Take a line out of an option."""
    options = [Option.model_validate(one) for one in draft.options]
    option = options[_place(options, place)]
    lines = tuple(one for i, one in enumerate(option.lines) if i != number)
    options[place] = option.model_copy(update={"lines": lines})
    _keep(connection, draft, options)


def _place(options: list[Option], place: int) -> int:
    if not 0 <= place < len(options):
        raise Refused("There is no such option any more.", "option")
    return place


def _keep(connection: Connection, draft: Proposal, options: list[Option]) -> None:
    for option in options:
        _ = option.cents  # refused where its discounts are more than the rest
    proposals.change_draft(connection, draft.id, options=[one.model_dump(mode="json") for one in options])


def offer(connection: Connection, someone: Someone, draft: Proposal, view: VisitView, now: datetime) -> None:
    """Offer a draft: from now on it stays as it is.

    Raises
    ------
    Refused
        For an option without a line, or none at all.
    """
    options = [Option.model_validate(one) for one in draft.options]
    if not options:
        raise Refused("Put at least one option together first.", "sort")
    empty = next((i for i, one in enumerate(options, start=1) if not one.lines), None)
    if empty is not None:
        raise Refused(f"Option {empty} has no line yet.", f"price-{empty - 1}")
    settings = shop_settings(connection)
    facts = facts_for(connection, view, settings, now)
    proposals.change_draft(connection, draft.id, offered_at=now, currency=settings.currency, facts=facts.model_dump(mode="json"))
    audit.note(connection, someone, "options_offered", f"{view.visit.site_name}, {view.visit.tag}: {len(options)} options")


def line_from(connection: Connection, price_id: UUID, thousandths: int) -> OfferLine:
    """A line of the price list, so many of it.

    Raises
    ------
    Refused
    """
    price = prices.find_price(connection, price_id)
    if price is None or price.retired:
        raise Refused("Choose a price of the list.", "price")
    return OfferLine(sort=price.sort, what=price.what, per=price.per, thousandths=thousandths, cents_each=price.cents)


# -- deciding --------------------------------------------------------------


def decide(
    connection: Connection,
    shop_id: UUID,
    visit_id: UUID,
    answer: Answer,
    language: str,
    now: datetime,
    *,
    link_id: UUID | None = None,
    person_id: UUID | None = None,
) -> Decision:
    """Keep what an owner decided; the same answer sent again is one decision.

    Raises
    ------
    Refused
        With the name of a sentence as its message: ``choose``, ``name``, ``sign`` or ``risks``.
    Changed
        The options are others by now.
    """
    offered = proposals.latest_proposal(connection, visit_id, offered=True)
    kept = {one.id: one for one in proposals.decisions_of(connection, visit_id)}
    if answer.decision_id in kept:
        return kept[answer.decision_id]
    if offered is None or offered.id != answer.proposal_id:
        raise Changed
    shown = offer_shown(offer_of(offered))
    places = {"none": None, **{str(i): i for i in range(len(shown.options))}}
    if answer.chosen not in places:
        raise Refused("choose", "chosen")
    name = " ".join(answer.name.split())[:120]
    if len(name) < _LEAST_NAME:
        raise Refused("name", "name")
    if not answer.read:
        raise Refused("risks", "read")
    signature: Signature = signature_of(answer.signature, answer.typed)
    chosen = places[answer.chosen]
    risks = shown.declined if chosen is None else shown.options[chosen].risks
    proposals.add_decision(
        connection,
        shop_id=shop_id,
        id=answer.decision_id,
        proposal_id=offered.id,
        visit_id=visit_id,
        at=now,
        chosen=chosen,
        name=name,
        risks=list(risks),
        signature=signature.model_dump(mode="json"),
        words=answer.words.strip()[:600],
        language=language,
        link_id=link_id,
        person_id=person_id,
    )
    found = next((one for one in proposals.decisions_of(connection, visit_id) if one.id == answer.decision_id), None)
    if found is None:
        raise Refused("choose", "chosen")
    return found


_LEAST_NAME = 2


def option_from(fields: Mapping[str, str], lines: tuple[OfferLine, ...], seer: float | None) -> Option:
    """An option's own fields.

    Raises
    ------
    Refused
    """
    if fields.get("sort") not in set(OptionSort):
        raise Refused("Choose what the option is.", "sort")
    return Option(
        sort=OptionSort(fields["sort"]),
        name=fields.get("name", "").strip()[:120],
        lines=lines,
        leaves=fields.get("leaves", "").strip()[:600],
        new_seer=seer,
    )
