"""What is due again by season: a plan per part becomes something left for later, with its day."""

from __future__ import annotations

from datetime import UTC, date
from typing import Annotated, Literal
from uuid import uuid5

from pydantic import Field

from dry_gauge.core.season import PART_WORDS, SURROUNDING_WORDS, SeasonPart, Surroundings, next_due
from dry_gauge.notebook.kind import Answered, Body, Entry, Kept, Kind, Part, VisitState, kept
from dry_gauge.notebook.subjects.agenda import Agenda, FollowUpBody, FollowUpSort


class SeasonBody(Body):
    """A part was seen today, and is due again by what surrounds it, or in so many months."""

    kind: Literal["season"] = "season"
    part: SeasonPart
    surroundings: Surroundings
    months: Annotated[int, Field(ge=1, le=60)] | None = None

    def due(self, seen_on: date) -> date:
        """When it is due again."""
        return next_due(self.part, self.surroundings, seen_on, self.months)

    @property
    def words(self) -> str:
        """As it is left for later."""
        return f"{PART_WORDS[self.part].capitalize()}: look and clean ({SURROUNDING_WORDS[self.surroundings]})"


class Season(Part):
    """The plan of each part."""

    plans: dict[SeasonPart, Kept[SeasonBody]] = {}


def _planned(visit: VisitState, entry: Entry, body: SeasonBody) -> VisitState:
    follow_ups = dict(visit[Agenda].follow_ups)
    before = visit[Season].plans.get(body.part)
    if before is not None:  # one plan a part: the later one counts
        follow_ups.pop(str(uuid5(before.entry_id, "season")), None)
    left = FollowUpBody(sort=FollowUpSort.SEASON, what=body.words, due=body.due(entry.written_at.astimezone(UTC).date()))
    follows = entry.model_copy(update={"id": uuid5(entry.id, "season"), "body": left})
    follow_ups[str(follows.id)] = Answered[FollowUpBody](**kept(follows))
    plans = visit[Season].plans | {body.part: Kept[SeasonBody](**kept(entry))}
    return visit.changing(Season, plans=plans).changing(Agenda, follow_ups=follow_ups)


def _said(body: SeasonBody, _: VisitState) -> tuple[str, str]:
    months = f", every {body.months} months" if body.months else ""
    return f"Season: {PART_WORDS[body.part]}", f"{SURROUNDING_WORDS[body.surroundings]}{months}"


KINDS = (Kind(SeasonBody, _said, _planned),)
