"""Options for an owner, as a page shows them: sums, sentences, the chart, and the form in which they decide."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial
from typing import Any

from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.local_time import local
from dry_gauge.core.office.money import Per
from dry_gauge.core.office.offer import Offer
from dry_gauge.core.office.signature import Signature
from dry_gauge.core.statements import Statement
from dry_gauge.core.words import Reader
from dry_gauge.drawing.pay_back import Band, pay_back_svg
from dry_gauge.drawing.signed import signed_svg
from dry_gauge.exchange.language import Language
from dry_gauge.present.offer import offer_shown
from dry_gauge.service.proposals import offer_of
from dry_gauge.store import proposals
from dry_gauge.store.proposals import Decision, Proposal


def offer_values(connection: Connection, visit_id: Any, language: Language, reader: Reader) -> dict[str, Any]:
    """What was offered last and what was decided of it; nothing offered shows nothing."""
    offered = proposals.latest_proposal(connection, visit_id, offered=True)
    decisions = proposals.decisions_of(connection, visit_id)
    if offered is None:
        return {"offer": None, "decision": None, "decided": ""}
    latest = next((one for one in decisions if one.proposal_id == offered.id), None)
    return {
        **shown(offered, language, reader),
        "decision": latest,
        "decided": decided_words(latest, offered, language) if latest else "",
        "decided_on": language.day(local(latest.at)) if latest else "",
        "signed": signature_picture(latest) if latest else "",
    }


def shown(proposal: Proposal, language: Language, reader: Reader) -> dict[str, Any]:
    """One set of options in a language."""
    offer = offer_of(proposal)
    money = partial(language.money, currency=proposal.currency)
    tell = partial(language.tell, reader=reader, currency=proposal.currency)
    return {
        "proposal": proposal,
        "offer": offer_shown(offer),
        "money": money,
        "tell_offer": tell,
        "count_of": _count,
        "LINE_WORDS": {per: f"line-{per.value}" for per in Per},
        "chart": _chart(offer, language, proposal.currency),
        "names": names(offer, language),
    }


def names(offer: Offer, language: Language) -> Sequence[str]:
    """Each option by its own name, else by what it is."""
    return [one.option.name or language.say(f"opt-{one.option.sort.value}") for one in offer.options]


def decided_words(decision: Decision, proposal: Proposal, language: Language) -> str:
    """Who chose what."""
    listed = names(offer_of(proposal), language)
    none = decision.chosen is None or decision.chosen >= len(listed)
    option = language.say("choose-none") if none else listed[decision.chosen or 0]
    return language.say("chosen-what", name=decision.name, option=option)


def signature_picture(decision: Decision) -> Markup:
    """The signature as it was drawn; nothing where the name was typed in its place."""
    signature = Signature.model_validate(decision.signature, strict=False)
    return Markup(signed_svg(signature, decision.name, "signed"))  # noqa: S704  our own drawing


def _count(thousandths: int) -> str:
    return f"{thousandths / 1000:g}"


def _chart(offer: Offer, language: Language, currency: str) -> Markup:
    bands = [
        Band(name, one.course, "new" if one.is_new else "old")
        for name, one in zip(names(offer, language), offer.options, strict=True)
        if one.course
    ]
    if len(bands) < 2:
        return Markup("")
    money = partial(language.money, currency=currency, short=True)
    words = "; ".join(f"{band.name}: {money(band.course.at_once)}" for band in bands)
    title, axis = language.say("axis-cost"), language.say("axis-years")
    return Markup(pay_back_svg(title, words, bands, offer.hinge, money, axis, "pay-back"))  # noqa: S704  our own drawing


def problem_words(problem: str, language: Language) -> str:
    """Why a decision was not taken."""
    return language.tell(Statement(f"wrong-{problem}"))


def typed_again(fields: Mapping[str, str]) -> dict[str, str]:
    """What somebody typed, for the form that shows it again."""
    return {name: fields.get(name, "") for name in ("chosen", "name", "words", "typed", "read", "signature", "decision_id")}
