"""Everything that a station may look at, gathered before anything is shown. What a station does not ask for stays empty."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from typing import Any
from uuid import UUID

from dry_gauge.core.charge.cylinders import Held
from dry_gauge.core.charge.mass import GRAM_KG
from dry_gauge.core.probes import SCALE, LatestProbe, live_among
from dry_gauge.core.shop import ShopSettings
from dry_gauge.core.visit.complaints import TRIAGE, Complaint
from dry_gauge.core.words import Reader
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.change_out import NewUnitBody
from dry_gauge.notebook.subjects.control_chain import ChainBody
from dry_gauge.present.visit import VisitView

Points = tuple[tuple[datetime, float], ...]


@dataclass(frozen=True, slots=True)
class FollowUpRow:
    """One thing left for later, with its unit."""

    id: UUID
    sort: str
    what: str
    due: date
    done_at: datetime | None
    visit_id: UUID
    unit_id: UUID
    tag: str
    site_name: str


@dataclass(frozen=True, slots=True)
class KnownFoot:
    """The foot of a model, as it was measured or read off its drawing on some visit."""

    body: NewUnitBody
    at: datetime
    by: str


@dataclass(frozen=True, slots=True)
class SaidLater:
    """What was said weeks after a repair: whether it held, or with what it came back."""

    at: datetime
    held: bool
    symptom: str
    words: str
    by: str

    @property
    def said(self) -> str:
        """In a few words."""
        return "It held" if self.held else f"It came back: {TRIAGE[Complaint(self.symptom)].label.lower()}"


@dataclass(frozen=True, slots=True)
class CardHistory:
    """What stands beside a unit card: what was left for later, its parts and those on their way, who changed the card, and
    what was said later of each visit."""

    follow_ups: Sequence[FollowUpRow] = ()
    components: Sequence[Any] = ()
    changes: Sequence[Any] = ()
    on_their_way: Sequence[Any] = ()
    said_later: Mapping[UUID, SaidLater] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class History:
    """A unit's past, latest first; `last` is the latest closed visit with readings, judged."""

    visits: Sequence[VisitView]
    last: VisitView | None
    card: CardHistory


@dataclass(frozen=True, slots=True)
class UnitPast:
    """What is known for a leak search: the unit's age and its later parts' years, where it leaked before, what was booked."""

    age_years: float | None = None
    leaked_before: frozenset[str] = frozenset()
    part_years: Mapping[str, float] = field(default_factory=dict)
    booked: Sequence[FollowUpRow] = ()


@dataclass(frozen=True, slots=True)
class CodeMeaning:
    """What a code of a board means, by the shop's table; and how often boards like it showed it before."""

    meaning: str
    first_test: str
    latches: bool


@dataclass(frozen=True, slots=True)
class ControlPast:
    """What other visits and like units say of a unit's controls.

    Parameters
    ----------
    own_chain, like_chain : ChainBody or None
        As another visit left it, and of another unit of the model; `like_unit` says whose.
    opened_here, opened_on_like : mapping of str to int
        How often each link was found open before.
    meanings : mapping of (str, str) to CodeMeaning
        By board and code, both in small letters.
    code_times : mapping of (str, str) to (int, int)
        How often boards of that name showed it before, and on how many units.
    codes_here : sequence of (str, str, datetime)
        Board, code and when, on this unit, latest first.
    neighbours : sequence of (UUID, str, str)
        Units of the site that showed one of this visit's codes lately: id, tag, code.
    """

    own_chain: ChainBody | None = None
    like_chain: ChainBody | None = None
    like_unit: str = ""
    opened_here: Mapping[str, int] = field(default_factory=dict)
    opened_on_like: Mapping[str, int] = field(default_factory=dict)
    boards: Sequence[str] = ()
    meanings: Mapping[tuple[str, str], CodeMeaning] = field(default_factory=dict)
    code_times: Mapping[tuple[str, str], tuple[int, int]] = field(default_factory=dict)
    codes_here: Sequence[tuple[str, str, datetime]] = ()
    neighbours: Sequence[tuple[UUID, str, str]] = ()


@dataclass(frozen=True, slots=True)
class Scene:
    """A visit with all that stands around it, at one moment.

    Parameters
    ----------
    traces : mapping of str to points
        What a live vacuum gauge showed since the notebook last knew, by evacuation.
    sampled : mapping of str to points
        What live probes in a box showed over the last hours, by quantity, thinned. [K]
    history, past, controls, instruments, feet
        Only for the stations that ask for them.
    """

    view: VisitView
    reader: Reader
    now: datetime
    circuit: int = 1
    may_write: bool = True
    settings: ShopSettings = field(default_factory=ShopSettings)
    cylinders: Sequence[Held] = ()
    probes: Sequence[LatestProbe] = ()
    traces: Mapping[str, Points] = field(default_factory=dict)
    sampled: Mapping[str, Points] = field(default_factory=dict)
    history: History | None = None
    past: UnitPast = UnitPast()
    controls: ControlPast = field(default_factory=ControlPast)
    instruments: Sequence[Any] = ()
    feet: Sequence[KnownFoot] = ()
    dark_at: datetime | None = None
    """When dusk ends today where the shop works, as far as it said where that is."""
    whole: VisitView | None = None
    """The visit of all circuits, where `view` is of one."""
    model_tables: Sequence[Body] = ()
    """Tables of the model that the station asks for, as other visits to its units left them, the oldest first."""

    def of_circuit(self) -> Scene:
        """The scene as the sealed work of the shown circuit has it."""
        return replace(self, view=self.view.of_circuit(self.circuit), whole=self.view)

    @property
    def metric(self) -> bool:
        """Whether this reader weighs in kilograms."""
        return self.reader.weight_unit == "kg"

    @property
    def scale_g(self) -> int | None:
        """What a live scale shows now, grams; None without one."""
        for probe in self.live((SCALE,)):
            return max(0, round((probe.value_si or 0.0) / GRAM_KG))
        return None

    def live(self, quantities: Collection[str]) -> list[LatestProbe]:
        """Probes that speak now, in the order of those quantities."""
        return live_among(self.probes, quantities, self.now)
