"""What was found wrong, and how each of it ended: mended and looked at again, booked, or accepted with a reason."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Literal

from dry_gauge.core.errors import Refused
from dry_gauge.core.judgement.faults import FAULT_WORDS
from dry_gauge.core.roles import swapped
from dry_gauge.core.visit.findings import COMBUSTION_FINDINGS, FINDINGS, FIRM_FINDINGS
from dry_gauge.core.vocabulary import ICE_SIGHTS, INDOOR_AIR_SIGHTS, OUTDOOR_AIR_SIGHTS, SIGHTS, Fault, Mode, State
from dry_gauge.notebook.fields import Circuit, Reason
from dry_gauge.notebook.kind import Body, Case, Entry, Kept, Kind, Obstacle, Part, VisitState, Weight, kept
from dry_gauge.notebook.subjects.actions import Actions
from dry_gauge.notebook.subjects.agenda import Agenda
from dry_gauge.notebook.subjects.ledger import Ledger
from dry_gauge.notebook.subjects.observations import ObservationBody, Observations, sight_label
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.notebook.subjects.verdicts import Verdicts


class FindingWay(StrEnum):
    """How a finding ends without being mended today."""

    ACCEPTED = "accepted"
    BOOKED = "booked"


class FindingEndBody(Body):
    """A finding is left as it is, with a reason: accepted, or booked for another day."""

    kind: Literal["finding_end"] = "finding_end"
    what: str
    circuit: Circuit | None = None
    way: FindingWay
    reason: Reason


class Findings(Part):
    """How findings were left; keys as in `Observations.found`."""

    ended: dict[str, Kept[FindingEndBody]] = {}


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding as it stands.

    Parameters
    ----------
    key, what : str
        Its key, and the observation or fault that it is.
    mended, looked_again : bool
        Something was done that answers it; and its coil's air was proven since, which is looking at it again.
    left : Kept[FindingEndBody] or None
        How it was left.
    """

    key: str
    what: str
    circuit: int | None
    entry_id: str
    label: str
    mended: bool
    looked_again: bool
    firm: bool
    left: Kept[FindingEndBody] | None

    @property
    def ended(self) -> bool:
        """Whether nothing is left to be said of it."""
        return self.mended or self.left is not None


def findings_in(visit: VisitState) -> tuple[Finding, ...]:
    """Every finding that was not denied since, oldest first."""
    observations, found = visit[Observations], []
    for key, one in sorted(observations.found.items(), key=lambda item: (item[1].at, item[1].entry_id)):
        what = one.body.what
        if what not in FINDINGS:
            continue
        latest = observations.latest.get(key)
        mended = latest is None or latest.body.state is not State.YES
        found.append(
            Finding(
                key,
                what,
                one.body.circuit,
                str(one.entry_id),
                sight_label(what, one.body.circuit),
                mended,
                mended and _air_proven_since(visit, one),
                what in FIRM_FINDINGS,
                _left(visit, key, one.at),
            )
        )
    own = visit[Verdicts].override
    if own is not None and own.body.fault is not Fault.NONE:
        key = f"{own.body.fault.value}/0"
        against = any(done.body.against is own.body.fault and done.at >= own.at for done in visit[Actions].done.values())
        found.append(
            Finding(
                key,
                own.body.fault.value,
                None,
                str(own.entry_id),
                FAULT_WORDS[own.body.fault],
                against,
                against,
                False,
                _left(visit, key, own.at),
            )
        )
    return tuple(found)


_PROVEN_BY = {
    **dict.fromkeys((*INDOOR_AIR_SIGHTS, *ICE_SIGHTS, "evaporator_dirty"), "evaporator_air_proven"),
    **dict.fromkeys((*OUTDOOR_AIR_SIGHTS, "condenser_dirty", "condenser_air_recirculating"), "condenser_air_proven"),
}


def _air_proven_since(visit: VisitState, found: Kept[ObservationBody]) -> bool:
    """Whether the air of its coil was proven after it was found: what is done about it makes an older proof stale."""
    iced_outdoors = found.body.what in ICE_SIGHTS and visit[Running].mode is Mode.HEATING
    proof = swapped(_PROVEN_BY.get(found.body.what, ""), heating=iced_outdoors)
    proven = visit[Observations].of(proof, found.body.circuit)
    return proven is not None and proven.body.state is State.YES and proven.at > found.at


def _left(visit: VisitState, key: str, since: datetime) -> Kept[FindingEndBody] | None:
    """How it was left, if that was said after it was found."""
    one = visit[Findings].ended.get(key)
    return one if one is not None and one.at >= since else None


def _made_safe(visit: VisitState, what: str) -> bool:
    """Whether a danger that was not mended can hurt nobody: locked out or tagged; from combustion as R65 has it."""
    ledger = visit[Ledger]
    if what in COMBUSTION_FINDINGS:
        return any(one.body.ends_combustion for one in ledger.red_tags.values())
    return bool(ledger.locked or ledger.red_tags)


_SAFE_BY = "Mend it, or lock the unit out and tag it."
_COMBUSTION_SAFE_BY = "Gas off, a red tag on it, and write down who was told and signed, refused, or was not there."


def _safe_by(what: str) -> str:
    return _COMBUSTION_SAFE_BY if what in COMBUSTION_FINDINGS else _SAFE_BY


def _ended(visit: VisitState, entry: Entry, body: FindingEndBody) -> VisitState:
    key = f"{body.what}/{body.circuit or 0}"
    return visit.changing(Findings, ended=visit[Findings].ended | {key: Kept[FindingEndBody](**kept(entry))})


def _unknown(case: Case[FindingEndBody]) -> None:
    if case.body.what not in FINDINGS and case.body.what not in set(Fault):
        raise Refused("That is no finding of this visit.", "what")


def _not_so(case: Case[FindingEndBody]) -> None:
    body = case.body
    label = sight_label(body.what, body.circuit) if body.what in SIGHTS else FAULT_WORDS[Fault(body.what)]
    if body.what in FIRM_FINDINGS and not _made_safe(case.visit, body.what):
        raise Refused(f"{label}: nobody accepts that. {_safe_by(body.what)}", "way")
    if body.way is FindingWay.BOOKED and not case.visit[Agenda].booked():
        raise Refused("Nothing is booked yet: book the return below, then say so here.", "way")


def _still_found(visit: VisitState) -> list[Obstacle]:
    obstacles = []
    for one in findings_in(visit):
        safe = _made_safe(visit, one.what)
        if one.firm and not one.mended and not safe:
            words = f"{one.label}. {_safe_by(one.what)}"
            obstacles.append(Obstacle("finding", words, one.entry_id, True, Weight.SAFETY))
        elif not one.ended and not (one.firm and safe):
            words = f"Found: {one.label.lower()}. Mend it, book it, or say why it stays."
            obstacles.append(Obstacle("finding", words, one.entry_id, weight=Weight.PROOF, answered_alone=True))
        elif one.mended and not one.looked_again and one.left is None:
            words = f"Mended, not looked at again: {one.label.lower()}."
            obstacles.append(Obstacle("look_again", words, one.entry_id, weight=Weight.PROOF, of_fixed=True))
    return obstacles


def anything_found(visit: VisitState) -> Finding | None:
    """The first finding of the visit, however it ended: with one, 'nothing wrong' is not true."""
    return next(iter(findings_in(visit)), None)


def _end_said(body: FindingEndBody, _: VisitState) -> tuple[str, str]:
    label = sight_label(body.what, body.circuit) if body.what in SIGHTS else FAULT_WORDS[Fault(body.what)]
    return f"{label}: {body.way.value}", body.reason


KINDS = (Kind(FindingEndBody, _end_said, _ended, refuse=_unknown, collides=_not_so, leaves_open=_still_found),)
