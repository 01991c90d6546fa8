"""What was done to the unit. What was read before it is the before of a pair; what it answers is looked at again.

Work is often written down at the end. Where the one who writes says so, what stands on the sheet was read after it.
"""

from __future__ import annotations

from datetime import datetime, timedelta
from enum import StrEnum
from typing import Literal

from dry_gauge.core.judgement.faults import FAULT_WORDS
from dry_gauge.core.roles import swapped
from dry_gauge.core.vocabulary import Fault, Mode, State
from dry_gauge.notebook.fields import FewWords
from dry_gauge.notebook.kind import Body, Entry, Kept, Kind, Part, VisitState, kept
from dry_gauge.notebook.subjects.agenda import thaw_ended
from dry_gauge.notebook.subjects.observations import ObservationBody, Observations, seen
from dry_gauge.notebook.subjects.readings import OUTLIVES_A_CHANGE, Readings, swept
from dry_gauge.notebook.subjects.running import Running


class ActionSort(StrEnum):
    """What can be done to a unit; each clears the observations it answers."""

    FILTER_CHANGED = "filter_changed"
    EVAPORATOR_CLEANED = "evaporator_cleaned"
    CONDENSER_CLEANED = "condenser_cleaned"
    BELT_OR_BLOWER = "belt_or_blower"
    OUTDOOR_FAN = "outdoor_fan"
    DAMPER_OPENED = "damper_opened"
    DRAIN_CLEARED = "drain_cleared"
    THAWED = "thawed"
    CHARGE_ADJUSTED = "charge_adjusted"
    METERING_DEVICE = "metering_device"
    DRIER_CHANGED = "drier_changed"
    ELECTRICAL_PART = "electrical_part"
    SETTING_CHANGED = "setting_changed"
    OTHER = "other"


_MOVES_OUTDOOR_AIR = frozenset({ActionSort.DAMPER_OPENED, ActionSort.SETTING_CHANGED})
"""What may change how much comes in from outdoors: mixed air is read again."""
ACTION_WORDS = {
    ActionSort.FILTER_CHANGED: "Filter changed",
    ActionSort.EVAPORATOR_CLEANED: "Evaporator cleaned",
    ActionSort.CONDENSER_CLEANED: "Condenser cleaned",
    ActionSort.BELT_OR_BLOWER: "Belt or blower mended",
    ActionSort.OUTDOOR_FAN: "Outdoor fan mended",
    ActionSort.DAMPER_OPENED: "Damper opened",
    ActionSort.DRAIN_CLEARED: "Drain cleared",
    ActionSort.THAWED: "Coil thawed",
    ActionSort.CHARGE_ADJUSTED: "Charge adjusted",
    ActionSort.METERING_DEVICE: "Metering device set or changed",
    ActionSort.DRIER_CHANGED: "Drier changed",
    ActionSort.ELECTRICAL_PART: "Electrical part changed",
    ActionSort.SETTING_CHANGED: "Setting changed",
    ActionSort.OTHER: "Something else",
}
# Actions after which the refrigerant side reads as before.
_CHANGES_NO_READING = frozenset({ActionSort.DRAIN_CLEARED})
_INDOOR = ("evaporator_air_proven",)
_OUTDOOR = ("condenser_air_proven",)
ANSWERED_BY: dict[ActionSort, tuple[str, ...]] = {
    ActionSort.FILTER_CHANGED: ("filter_dirty", "filter_missing", *_INDOOR),
    ActionSort.EVAPORATOR_CLEANED: ("evaporator_dirty", *_INDOOR),
    ActionSort.CONDENSER_CLEANED: ("condenser_dirty", "discharge_air_pulsing", "condenser_air_recirculating", *_OUTDOOR),
    ActionSort.BELT_OR_BLOWER: ("blower_stopped", "blower_belt_slipping", "blade_unsafe", "bearing_worn", *_INDOOR),
    ActionSort.OUTDOOR_FAN: ("condenser_fan_stopped", "condenser_fan_reversed", "blade_unsafe", "bearing_worn",
                             *_OUTDOOR),
    ActionSort.DAMPER_OPENED: ("damper_closed", *_INDOOR),
    ActionSort.DRAIN_CLEARED: ("drain_blocked", "water_at_electrics"),
    ActionSort.THAWED: ("ice_on_evaporator_even", "ice_on_evaporator_patchy", "frost_at_distributor",
                        "suction_line_frosted_to_compressor", *_INDOOR),
    ActionSort.CHARGE_ADJUSTED: ("sight_glass_bubbles", "sight_glass_streaming", "sight_glass_half_empty"),
    ActionSort.METERING_DEVICE: ("superheat_hunting",),
    ActionSort.DRIER_CHANGED: ("frost_after_drier",),
    ActionSort.ELECTRICAL_PART: ("burnt_parts", "plug_loose", "blower_stopped", "condenser_fan_stopped"),
}  # fmt: skip
"""Which observations an action makes stale: they must be looked at again."""
READ_SINCE = "before the readings were taken"
_SAYS = {ActionSort.CHARGE_ADJUSTED: "recently_charged", ActionSort.THAWED: "recently_defrosted"}
_CLOCKS = {ActionSort.CHARGE_ADJUSTED: "charged_at", ActionSort.THAWED: "defrosted_at"}


class ActionBody(Body):
    """What was changed. Readings before it stay as the before of a pair; the unit is read again after it."""

    kind: Literal["action"] = "action"
    sort: ActionSort
    words: FewWords = ""
    against: Fault | None = None
    part: FewWords = ""
    read_since: bool = False
    """What stands on the sheet was read after it: written down late, it makes nothing a before."""


class Actions(Part):
    """By the entry's id."""

    done: dict[str, Kept[ActionBody]] = {}

    @property
    def last(self) -> Kept[ActionBody] | None:
        """The latest thing done."""
        return max(self.done.values(), key=lambda one: (one.at, one.entry_id), default=None)

    def has(self, sort: ActionSort) -> bool:
        """Whether that was done."""
        return any(one.body.sort is sort for one in self.done.values())


def indoor_air_changed_at(visit: VisitState) -> datetime | None:
    """When something was done last that changes how much air goes over the indoor coil."""
    done = [one.at for one in visit[Actions].done.values() if set(_INDOOR) <= set(ANSWERED_BY.get(one.body.sort, ()))]
    return max(done, default=None)


def changed(visit: VisitState, entry: Entry, sort: ActionSort, *, read_since: bool = False) -> VisitState:
    """The visit after something was done to the unit: what was read becomes the before of a pair.

    With `read_since` the entry stands ahead of what was read (`ahead_of_readings`), and that stays.
    """
    answered = ANSWERED_BY.get(sort, ())
    if sort is ActionSort.THAWED:  # the coil that evaporates: in heating its air is the outdoor one's
        answered = tuple(swapped(what, heating=visit[Running].mode is Mode.HEATING) for what in answered)
    visit = visit.having(visit[Observations].without(answered, entry.written_at))
    if sort in _SAYS:
        visit = seen(visit, entry, ObservationBody(what=_SAYS[sort], state=State.YES))
    if sort in _CHANGES_NO_READING:
        return visit
    if not read_since:
        moved = {"mixed_air_temp"} if sort in _MOVES_OUTDOOR_AIR else set()
        visit = swept(visit, OUTLIVES_A_CHANGE - moved)
    running = visit[Running]
    clocks = ("changed_at", _CLOCKS[sort]) if sort in _CLOCKS else ("changed_at",)
    since = {name: max(filter(None, (getattr(running, name), entry.written_at))) for name in clocks}
    return visit.changing(Running, **since)


def ahead_of_readings(visit: VisitState, entry: Entry) -> Entry:
    """The entry as if it were written just before the first of the readings that a change would sweep.

    Where nothing was read since the last one, it stays where it is.
    """
    goes = (one.at for one in visit[Readings].latest.values() if one.body.quantity not in OUTLIVES_A_CHANGE)
    first = min(goes, default=None)
    return entry if first is None else entry.model_copy(update={"written_at": first - timedelta(microseconds=1)})


def acted(visit: VisitState, entry: Entry, body: ActionBody) -> VisitState:
    """The visit after something was done, said by its own entry or following from another."""
    if body.read_since:
        entry = ahead_of_readings(visit, entry)
    done = Kept[ActionBody](**kept(entry.model_copy(update={"body": body})))
    visit = visit.changing(Actions, done=visit[Actions].done | {str(entry.id): done})
    if body.sort is ActionSort.THAWED:
        visit = thaw_ended(visit, entry)
    return changed(visit, entry, body.sort, read_since=body.read_since)


def how_done(body: ActionBody, cause: str) -> str:
    """What was done, and against which cause, in the words that its unit has for it."""
    against = f", against {cause.lower()}" if body.against else ""
    since = f", {READ_SINCE}" if body.read_since else ""
    return f"{body.words or body.part}{against}{since}".strip(", ")


def _said(body: ActionBody, _: VisitState) -> tuple[str, str]:
    return ACTION_WORDS[body.sort], how_done(body, FAULT_WORDS[body.against] if body.against else "")


KINDS = (Kind(ActionBody, _said, acted, happened=True, sweeps=True),)
