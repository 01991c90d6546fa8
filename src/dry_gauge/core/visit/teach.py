"""Steps with consequence: what can go wrong, what a helper does alone, and what not (docs/rules.md, R68).

A limit says who stands by; it never refuses what was done its place on the record. The usual limits are a habit of the
trade and meant to be set by each shop; licence and local code decide what nobody may do without them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import timedelta
from enum import StrEnum


class Limit(StrEnum):
    """How far a helper goes."""

    ALONE = "alone"
    BESIDE = "beside"
    NOT = "not"


LIMIT_WORDS = {Limit.ALONE: "alone", Limit.BESIDE: "with a technician beside them", Limit.NOT: "not at all: a technician does it"}
STANDS_FOR = timedelta(hours=4)
"""How long somebody who stood by is taken to stand by still (R68)."""


class Step(StrEnum):
    """What is about to be done."""

    LIVE_PANEL = "live_panel"
    RESET = "reset"
    BRIDGE = "bridge"
    ELECTRICAL_PART = "electrical_part"
    CLEAN = "clean"
    OPEN_SYSTEM = "open_system"
    RECOVER = "recover"
    NITROGEN = "nitrogen"
    EVACUATE = "evacuate"
    CHARGE = "charge"
    CLOSE = "close"


@dataclass(frozen=True, slots=True)
class TeachCard:
    """One step for whoever is learning it.

    Parameters
    ----------
    wrong : str
        What goes wrong, and to whom.
    alone, never : tuple of str
        What a helper does without being asked, and what not.
    usual : Limit
        Where a shop has set nothing.
    """

    step: Step
    title: str
    wrong: str
    alone: tuple[str, ...]
    never: tuple[str, ...]
    usual: Limit = Limit.BESIDE


def _card(step: Step, title: str, wrong: str, alone: str, never: str, usual: Limit = Limit.BESIDE) -> TeachCard:
    return TeachCard(step, title, wrong, tuple(alone.split("; ")), tuple(never.split("; ")), usual)


CARDS: Mapping[Step, TeachCard] = {card.step: card for card in (
    _card(Step.LIVE_PANEL, "Measuring in a live panel", "A slip with a probe is an arc in the face or a hand across two legs.",
          "take the cover off with the power locked out; set the meter and prove it on a known source; write the numbers down",
          "reach into a live panel; measure amps with a jaw that has to be pushed between terminals; work there when wet"),
    _card(Step.RESET, "Resetting what has tripped", "It tripped for a reason: a reset hides it, and a compressor dies of the "
          "third start.", "read and photograph what tripped; count how often, and when; look for the cause with the power off",
          "press a reset before the cause is named; hold a contactor in; reset twice"),
    _card(Step.BRIDGE, "Bridging or lifting something", "A jumper that is forgotten takes the last protection away.",
          "write down what is bridged and where; hang the tag; take one off that a technician put on, and say so",
          "bridge a safety; leave with a jumper in; lift a wire that is not labelled", Limit.NOT),
    _card(Step.ELECTRICAL_PART, "Changing an electrical part",
          "A capacitor holds its charge, and a wrong wire burns the new part.",
          "photograph every wire first; discharge and prove it; compare the numbers of old and new",
          "put power on for the first time alone; fit another rating because it is in the van"),
    _card(Step.CLEAN, "Cleaning a coil",
          "Acid on the wrong coil eats it, and water in the panel or the ceiling costs more than dirt.",
          "cover motors and panel; read the can; rinse from the clean side; wait until it is dry",
          "use a cleaner the coil's maker does not name; wash with the power on", Limit.ALONE),
    _card(Step.OPEN_SYSTEM, "Opening the sealed system",
          "What is left inside burns skin, feeds a flame, or is vented against the law.",
          "get the nitrogen flowing; clean and fit the pieces; watch for fire behind the joint",
          "cut or unsweat before a gauge has shown nothing is left; light a torch near a refrigerant that burns"),
    _card(Step.RECOVER, "Recovering refrigerant", "An overfilled cylinder bursts in a hot van, and a mixed one is worth nothing.",
          "weigh the cylinder and read its date; keep an eye on the scale; label it",
          "use a cylinder without a date or label; go over 80 %; mix two refrigerants"),
    _card(Step.NITROGEN, "Pressure with nitrogen", "A full bottle without a regulator tears a coil apart.",
          "tie the bottle down; read the test pressure off the label; soap the joints",
          "use oxygen or compressed air; go above the label; leave it unwatched while it rises"),
    _card(Step.EVACUATE, "Evacuating", "A pump switched off with open valves fills the system with its oil.",
          "change the pump's oil; prove the rig by itself; read the gauge at the unit, not at the pump",
          "start the compressor in a vacuum; break it with air", Limit.ALONE),
    _card(Step.CHARGE, "Charging", "Gas into a dirty or iced coil floods the compressor, and nobody sees it until it fails.",
          "weigh the cylinder before and after; read out pressures and temperatures; keep the clock",
          "open a valve before air and settling are proven; charge by pressure alone; stand away from an open valve"),
    _card(Step.CLOSE, "Leaving it running", "What was bridged, open or loose stays so when the van has gone.",
          "go through the ledger; put panels and screws back; read the last numbers",
          "tell the owner it is mended; close while something is bridged"),
)}  # fmt: skip


def limits_of(set_by_shop: Mapping[str, Limit]) -> dict[Step, Limit]:
    """How far a helper goes, step by step: as the shop has set it, else as usual."""
    return {step: set_by_shop.get(step.value, card.usual) for step, card in CARDS.items()}
