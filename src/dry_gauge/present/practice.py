"""A made-up call as its player sees it, and in hindsight: names of steps in words, numbers as this reader reads them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dry_gauge.bench.practice import game
from dry_gauge.bench.practice.debrief import Worth, link_named
from dry_gauge.bench.practice.game import Offer
from dry_gauge.bench.practice.hidden import RATED_UF, REMEDIES, Remedy, Sealing
from dry_gauge.bench.practice.unit import HARM_WORDS, PracticeCall
from dry_gauge.bench.practice.worker import Logged, Worker
from dry_gauge.core.judgement.checks import CHECKS
from dry_gauge.core.judgement.faults import FAULT_WORDS
from dry_gauge.core.sheet import Observation
from dry_gauge.core.vocabulary import QUANTITIES, SIGHTS, Fault, State
from dry_gauge.core.words import Reader

_WORDS: Mapping[str, str] = {
    **{check.name: check.words for check in CHECKS}, **{name: sight.label for name, sight in SIGHTS.items()},
    **{f"look_{name}": sight.label for name, sight in SIGHTS.items()}, **{one.value: row.words for one, row in REMEDIES.items()},
    "judge": "Asked the judgement", "capacitors": "Measured the run capacitors", "unusual_sound": "Listened to it",
    "lamp": "The board's lamp",
    "airs": "Airs", "gauges": "Both pressures", "lines": "Suction and liquid line",
    "air_unproven": "Proved the air on both coils", "too_few_readings": "Read what was missing",
    **{one.name: one.words for one in game.SEALED}, "comeback": "Three weeks later",
    "panel_off": "Took the panel off", "panel_on": "Put the panel back",
    "reset": "Reset it, and started it", "bridge": "Bridged the safeties",
}  # fmt: skip
# Which group of things to do stands first at which station; anywhere else all are folded.
_FIRST_AT: Mapping[str, str] = {
    "arrive": "Look", "look": "Look", "read": "Read", "air": "Read", "electrical": "Read", "box": "Read", "controls": "Volts",
    "mend": "Do", "leak": "Sealed work", "weigh": "Sealed work", "recover": "Sealed work", "hold": "Sealed work",
    "vacuum": "Sealed work",
}  # fmt: skip


SEALED_SHOWS: Mapping[str, str] = {
    "tight": "150 psig (10.3 bar) before, 150 after half an hour.",
    "falls": "150 psig (10.3 bar) before, 136 (9.4) after half an hour.",
    "stays": "Down to 280 micron; shut, it came to 370 in fourteen minutes.",
    "rises": "Down to 280 micron; shut, it came to 12,000 in fourteen minutes.",
}  # fmt: skip
SEEN: Mapping[str, tuple[str, str]] = {
    "evaporator_air_proven": ("Weak at the registers; hardly any air over the coil.", "Even and strong over the whole coil."),
    "condenser_air_proven": ("Less air leaves it than should, or it is warm air that goes in.", "Even and strong, cool air in."),
    "filter_dirty": ("Held against the light it shines through.", "Held against the light nothing comes through."),
    "evaporator_dirty": ("Behind the panel: fins bright, clear between them.", "Behind the panel: a gray mat on half of them."),
    "blower_belt_slipping": ("The belt is taut and dull.", "The belt sags, shines, and black dust lies under it."),
    "damper_closed": ("Dampers and registers stand open.", "A blade stands across the duct."),
    "door_open": ("The door shuts, its gasket is whole.", "The door stands ajar; boxes are warm to the hand."),
    "condenser_dirty": ("Fins clear; light shows through.", "Fluff and dirt in the fins; no light shows through."),
    "condenser_air_recirculating": ("It blows freely away.", "What it blows out comes back in at its sides."),
    "discharge_air_pulsing": ("The fan is a blur, and its air is steady.", "Single blades can be seen; the air comes in puffs."),
    "oil_stain": ("Joints, valves and coils are dry.", "A dark, dusty patch of oil under a joint."),
    "frost_after_drier": ("The drier is as warm before as behind.", "It sweats, and frost grows from its outlet on."),
    "sight_glass_bubbles": ("The glass is clear.", "Bubbles run through the glass."),
    "compressor_hot": ("The shell is warm; a hand can stay on it.", "The shell is too hot for a hand."),
    "recently_opened": ("Caps and joints are dusty all over.", "Bright wrench marks on a cap; new brazing."),
    "recently_charged": ("No tag or note of it.", "A tag says that refrigerant was added this season."),
    "unusual_sound": ("An even hum of compressor and fans; nothing stands out.", "Something stands out."),
    "drain_blocked": ("The pan is empty and wet; the drain runs.", "The pan is full to the switch; nothing runs off."),
}  # fmt: skip
"""What is seen, as somebody who looks would say it: where the answer is no, and where it is yes."""


@dataclass(frozen=True, slots=True)
class ShownStep:
    """One step as it is told: its words, when, how long, what it showed and harmed, and in hindsight what it was worth."""

    name: str
    words: str
    at: float
    minutes: float
    shown: tuple[str, ...]
    harms: tuple[str, ...]
    is_remedy: bool
    seen: tuple[tuple[str, str], ...] = ()
    """Of what was looked at its name and answer, to be drawn."""
    flashes_s: tuple[float, ...] = ()
    """Of a lamp that was watched, to be drawn."""
    notes: tuple[str, ...] = ()
    worth: str = ""


def step_words(call: PracticeCall, name: str) -> str:
    """A step in words."""
    if name.startswith(("volts_", "across_", "mend_", "wait_")):
        offer = game.offers_on(call).get(name)
        words = offer.words if offer else f"Wait {name.removeprefix('wait_')} min"
        return f"Volts at {words}" if name.startswith("volts_") else words
    return _WORDS.get(name, name.replace("_", " "))


def shown_step(call: PracticeCall, step: Logged, reader: Reader, worth: str = "") -> ShownStep:
    """One step as it is told."""
    words = step_words(call, step.name)
    quantities = [(QUANTITIES[one.quantity], one.value_si) for one in step.readings]
    shown = [f"{quantity.label} {reader.say(quantity.dimension, value)}" for quantity, value in quantities]
    shown += [*step.sounds] or [_seen(one, words) for one in step.seen]
    shown += [f"{one.volts:g} V" for one in step.volts]
    shown += [f"{motor.value.capitalize()}: {uf:.1f} µF, {RATED_UF[motor]:g} on it" for motor, uf in step.capacitors]
    shown += [SEALED_SHOWS[step.shows]] if step.shows else []
    shown += [step.lamp.words or "It flashes, stops, and begins again: three rounds."] if step.lamp else []
    harms = tuple(HARM_WORDS[one.code] for one in step.harms)
    changes = step.name in {*Remedy, Sealing.JOINT, Sealing.WEIGH_IN} or step.name.startswith("mend_")
    return ShownStep(
        step.name,
        words,
        step.at,
        step.minutes,
        tuple(shown),
        harms,
        changes,
        tuple((one.what, one.state.value) for one in step.seen),
        step.lamp.flashes_s if step.lamp else (),
        tuple(_notes(step)),
        worth,
    )


def _seen(one: Observation, beside: str) -> str:
    """What was seen, described where it can be; else its answer, under its name where that does not stand beside it."""
    if one.what in SEEN and one.state in (State.YES, State.NO):
        return SEEN[one.what][one.state is State.YES]
    if one.state is State.NOT_SEEN:
        return "Not to be seen or heard while it stands."
    label = SIGHTS[one.what].label
    return one.state.value if label == beside else f"{label}: {one.state.value}"


def _notes(step: Logged) -> list[str]:
    """How the unit stood, where that spoils what was read or says what comes next."""
    notes = []
    if step.name == game.BRIDGE.name and not step.runs:
        notes.append("It makes no difference.")
    if step.readings and step.panel_off:
        notes.append("Read with the panel off.")
    elif step.readings and not step.settled:
        notes.append("Read before it had settled.")
    if step.panel_off and not step.readings:
        notes.append("The panel is off.")
    return notes


@dataclass(frozen=True, slots=True)
class Group:
    """Things to do of one sort; `first` where the station is about them."""

    title: str
    offers: Sequence[Offer]
    first: bool


@dataclass(frozen=True, slots=True)
class Hand:
    """What can be done on the unit from a station, what was done last, and how late it is; `stands` while it does not run."""

    minutes: float
    known: int
    groups: Sequence[Group]
    last: ShownStep | None
    stands: bool
    may_ask: bool


# What is read where a station is about it; the rest stands apart, below.
_READ_AT: Mapping[str, frozenset[str]] = {
    "read": frozenset({"airs", "gauges", "lines", "discharge", "standing"}),
    "air": frozenset({"airs", "static", "airflow", "wet_split", "leaving_air"}),
    "electrical": frozenset({"amps", "power", "capacitors"}),
    "box": frozenset({"airs", "leaving_air", "inlet"}),
}


def hand_of(call: PracticeCall, worker: Worker, station: str, help_: str, reader: Reader) -> Hand:
    """What can be done from there."""
    reads = game.reads_on(call.facts)
    here = [one for one in reads if one.name in _READ_AT.get(station, {one.name})]
    listed: list[tuple[str, Sequence[Offer]]] = [
        ("Look", game.looks_on(call)),
        ("Read", here),
        ("Read besides", [one for one in reads if one not in here]),
        ("Volts", [*game.lamp_on(call), *game.volts_on(call)]),
        ("Volts across", game.across_on(call)),
        ("Do", [*game.remedies_on(call), *game.mends_on(call)]),
        ("Sealed work", game.SEALED),
        ("Wait, panel, reset", game.waits_on(call.facts)),
    ]
    first = _FIRST_AT.get(station, "")
    groups = [Group(title, offers, title == first) for title, offers in listed if offers]
    groups.sort(key=lambda group: not group.first)
    last = shown_step(call, worker.log[-1], reader) if worker.log else None
    return Hand(worker.minutes, len(worker.log), groups, last, not worker.unit.runs, help_ == "asked")


@dataclass(frozen=True, slots=True)
class Truth:
    """One thing that was wrong, in words; whether it was named, and whether it is mended."""

    fault: Fault | None
    words: str
    part: str
    size: str
    named: bool
    mended: bool
    link: str = ""


def truths(call: PracticeCall, worker: Worker, named: Sequence[str]) -> list[Truth]:
    """What was really wrong."""
    left = {one.fault for one in (*worker.unit.wrong, *worker.unit.eased)}
    found = [
        Truth(
            one.fault, FAULT_WORDS[one.fault], one.part.words, game.size_said(one.size), one.fault in named, one.fault not in left
        )
        for one in call.wrong
    ]
    if call.dead is not None and worker.unit.chain is not None:
        link = Truth(
            None,
            "It did not run",
            call.dead.words,
            "",
            link_named(call.dead.link) in named,
            worker.unit.chain.mended,
            call.dead.link,
        )
        found.insert(0, link)
    return found


def named_words(one: str) -> str:
    """What was named, in words."""
    return FAULT_WORDS[Fault(one)] if one in set(Fault) else f"{one.partition(':')[2]} open"


def worth_said(worth: Worth) -> str:
    """What a step was worth, in words."""
    if not (worth.step.readings or worth.step.seen or worth.step.volts or worth.step.capacitors):
        return "harm" if worth.step.harms else ""
    if worth.showed:
        return "showed what it is"
    if worth.proved:
        return "proof"
    if worth.bits < -_LED:
        return "led away"
    return "taught much" if worth.bits > 1 else "taught something" if worth.bits > _TAUGHT else "taught nothing"


_TAUGHT, _LED = 0.05, 0.5
