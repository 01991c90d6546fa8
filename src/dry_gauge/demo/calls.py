"""Calls of the demo shop: what was met, seen, done and said, years ago and today. All invented."""

from __future__ import annotations

from dataclasses import dataclass, field
from uuid import UUID

from dry_gauge.core.season import SeasonPart, Surroundings
from dry_gauge.core.vocabulary import State
from dry_gauge.demo.coils import photographed
from dry_gauge.demo.controls import STILL_SINCE_THE_DRILL, TRIPPED_IN_SUMMER
from dry_gauge.demo.ids import ident
from dry_gauge.demo.power_and_air import KILN_ROOM, OLD_ROOFTOP
from dry_gauge.demo.readings import Day
from dry_gauge.notebook.kind import Body
from dry_gauge.notebook.subjects.actions import ActionBody, ActionSort
from dry_gauge.notebook.subjects.closing import Outcome
from dry_gauge.notebook.subjects.failed_tests import Comparator, FailedTestBody
from dry_gauge.notebook.subjects.moving_air import FilterBody
from dry_gauge.notebook.subjects.observations import ObservationBody
from dry_gauge.notebook.subjects.season import SeasonBody

# Of a past visit, so many days ago: with what it came back, so many weeks later; with nothing, it held.
SAID_LATER = (
    ("ac2", 735, 7, "not_cold", "cool for a month, then as before"), ("ac2", 372, 5, "", ""), ("cheese", 480, 4, "", ""),
)  # fmt: skip


def saw(**states: bool) -> tuple[ObservationBody, ...]:
    """Observations: True is yes, False is no."""
    return tuple(ObservationBody(what=what, state=State.YES if yes else State.NO) for what, yes in states.items())


PROVEN = saw(evaporator_air_proven=True, condenser_air_proven=True)
COLD_ENOUGH = FailedTestBody(quantity="air_split", comparator=Comparator.ABOVE, value=18, unit="F", should="at full stage")
WASHED = (
    *saw(condenser_dirty=True, evaporator_air_proven=True),
    FailedTestBody(quantity="condenser_split", comparator=Comparator.BELOW, value=25, unit="F"),
    ActionBody(sort=ActionSort.CONDENSER_CLEANED, words="salt, rinsed from inside out"),
)
"""What a coil at the sea shows and is done about it."""


@dataclass(frozen=True, slots=True)
class DemoVisit:
    """A visit of the demo shop; `days` before today, at `hour`."""

    unit: str
    who: str
    days: int
    hour: float
    complaint: str
    status: str = "closed"
    along: str = ""
    summary: str = ""
    day: Day | None = None
    seen: tuple[ObservationBody, ...] = ()
    running: float | None = 22
    skip: frozenset[str] = field(default_factory=frozenset)
    note: str = ""
    measured: tuple[Body, ...] = ()
    """What was measured besides, of power, air and controls."""
    found: Day | None = None
    """What it met before the repair, where it was read before and after."""
    mended: tuple[Body, ...] = ()
    """What was seen then, and done about it."""
    outcome: Outcome | None = None

    @property
    def id(self) -> UUID:
        """The same at every seeding of the same day."""
        return ident("visit", self.unit, self.days, self.hour)


PAST = (
    # The ferry terminal's coil fouls with salt each spring.
    DemoVisit("rtu1", "tobin", 760, 10, "trips on hot afternoons", summary="Condenser washed",
              found=Day(93, 76, 63, {"low_condenser_airflow": 0.76}), mended=WASHED, day=Day(93, 76, 63), seen=PROVEN,
              measured=TRIPPED_IN_SUMMER),
    DemoVisit("rtu1", "ines", 395, 9, "spring wash", summary="Washed before it tripped",
              found=Day(84, 75, 62, {"low_condenser_airflow": 0.6}), mended=WASHED, day=Day(84, 75, 62), seen=PROVEN),
    DemoVisit("rtu1", "ines", 31, 9.5, "spring wash", summary="Right after the wash", day=Day(92, 76, 63), seen=PROVEN,
              measured=(SeasonBody(part=SeasonPart.OUTDOOR_COIL, surroundings=Surroundings.SEA),
                        SeasonBody(part=SeasonPart.FILTER, surroundings=Surroundings.SEA),
                        FilterBody(place="return", size="20 x 25 x 2", count=4))),
    # An old unit losing its compressor.
    DemoVisit("rtu2", "tobin", 420, 13, "not cold enough", summary="Worn compressor, quoted",
              outcome=Outcome.NOT_FIXED,
              day=Day(84, 80, 69, {"inefficient_compressor": 0.59}), seen=PROVEN),
    DemoVisit("rtu2", "wren", 64, 11, "not cold enough", summary="Worse; port to decide", outcome=Outcome.WAITING,
              day=Day(82, 80, 69.5, {"inefficient_compressor": 0.67}), seen=PROVEN),
    # The library's map store loses charge slowly.
    DemoVisit("ac2", "wren", 735, 14, "warm in the map store", summary="Short of charge, 9 oz added, no leak found",
              found=Day(88, 75, 62, {"undercharge": 0.43}), mended=(*PROVEN, COLD_ENOUGH), day=Day(88, 75, 62)),
    DemoVisit("ac2", "ines", 372, 15, "warm in the map store", summary="Short again, 11 oz added, oil at the flare",
              outcome=Outcome.IMPROVED, found=Day(87, 75, 62, {"undercharge": 0.46}),
              mended=(*PROVEN, *saw(oil_stain=True), COLD_ENOUGH), day=Day(87, 75, 62), seen=saw(oil_stain=True)),
    DemoVisit("hp1", "ines", 210, 8.5, "check before winter", summary="Right in heating",
              day=Day(42, 69, 57), seen=PROVEN),
    # A box that was once badly charged and set right.
    DemoVisit("cheese", "tobin", 480, 7.5, "box at 50", summary="Two fan motors replaced",
              found=Day(74, 46, None, {"low_evaporator_airflow": 0.72}),
              mended=(*saw(blower_stopped=True, condenser_air_proven=True),
                      FailedTestBody(what="blower_stopped", state=State.NO, should="all of them turn"),
                      ActionBody(sort=ActionSort.BELT_OR_BLOWER, words="two evaporator fan motors", part="9 W, 230 V")),
              day=Day(74, 44), seen=(*PROVEN, *saw(blower_stopped=False))),
    DemoVisit("cheese", "ines", 150, 7.5, "check", summary="Right",
              day=Day(72, 42),
              seen=(*PROVEN, *saw(sight_glass_bubbles=False))),
    DemoVisit("flowers", "wren", 95, 16, "ice on the coil", summary="Defrost clock set right", outcome=Outcome.FIXED,
              day=Day(70, 39), seen=(*PROVEN, *saw(ice_on_evaporator_even=False))),
    DemoVisit("ice", "wren", 640, 9, "slow to freeze", summary="Topped up to save the ice, return booked",
              outcome=Outcome.IMPROVED,
              day=Day(71, -3, None, {"undercharge": 0.55}),
              seen=(*PROVEN, *saw(sight_glass_bubbles=True))),
    DemoVisit("ice", "tobin", 330, 6.5, "slow to freeze", summary="Drier changed, charge weighed in",
              day=Day(68, -8),
              seen=(*PROVEN, *saw(sight_glass_bubbles=False))),
    DemoVisit("pottery", "wren", 60, 12, "first service", summary="Right",
              day=Day(85, 76, 63.5), seen=PROVEN, measured=(SeasonBody(part=SeasonPart.FILTER, surroundings=Surroundings.DUST),)),
)  # fmt: skip

TODAY = (
    DemoVisit("flowers", "wren", 0, 7.5, "yearly check", summary="right, nothing added",
              day=Day(71, 38.5),
              seen=(*PROVEN, *saw(sight_glass_bubbles=False))),
    DemoVisit("rtu1", "tobin", 0, 8.25, "trips on hot afternoons again", summary="condenser rinsed, split 19",
              day=Day(87, 76, 63), seen=PROVEN, found=Day(86, 76, 63, {"low_condenser_airflow": 0.7}), outcome=Outcome.FIXED,
              mended=(*WASHED, *photographed())),
    # The story of the day: short of charge, and the air not yet proven.
    DemoVisit("ac2", "ines", 0, 9.1, "warm in the map store again", status="open",
              day=Day(91, 75.4, 62.5, {"undercharge": 0.49}),
              seen=saw(condenser_air_proven=True, oil_stain=True), running=35, skip=frozenset({"discharge_line_temp"}),
              note="Filter changed by the caretaker, he says."),
    DemoVisit("cheese", "tobin", 0, 10.75, "box at 46 and rising", status="open",
              day=Day(75, 46.2, None, {"undercharge": 0.55}), skip=frozenset({"box_air_temp"}),  # its own course has it
              seen=saw(condenser_air_proven=True, sight_glass_bubbles=True), running=40),
    DemoVisit("pottery", "wren", 0, 11.5, "air feels weak since the glaze firing", status="open",
              day=Day(83, 76, 63, {"low_evaporator_airflow": 0.55}),
              seen=saw(filter_dirty=True), running=18, skip=frozenset({"discharge_line_temp"}), measured=KILN_ROOM),
    DemoVisit("rtu1", "tobin", 0, 13.0, "nothing runs since the fire drill", status="open", running=None,
              measured=STILL_SINCE_THE_DRILL),
    DemoVisit("hp1", "ines", 0, 14.5, "reading room stuffy", status="planned", along="silas"),
)  # fmt: skip
STILL_OPEN = (
    # A repair that runs over two days: recovered, mended, held overnight, evacuated, being weighed in.
    DemoVisit("ice", "tobin", 1, 8, "ice takes two days again", status="open",
              day=Day(70, -2, None, {"undercharge": 0.6}),
              seen=(*PROVEN, *saw(sight_glass_bubbles=True, oil_stain=True)), running=40),
    DemoVisit("rtu2", "maren", 3, 15.5, "not cold enough; decide with the port", status="open",
              day=Day(83, 81, 70.5, {"inefficient_compressor": 0.7}), seen=PROVEN, measured=OLD_ROOFTOP),
)  # fmt: skip
