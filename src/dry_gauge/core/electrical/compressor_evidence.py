"""What condemns a compressor: lines of evidence, what each proves, and what is missing. Never one test, but a ground (R42).

States are ``not_proven``, ``likely`` and ``proven``. A ground that reads about zero twice is proven by itself, and power stays
off: its terminals can blow out. Everything else needs two lines that cannot be wrong together, and what looks like a dead
compressor and is none (a hot overload, a dead capacitor, a lost leg, a start against pressure) ruled out first.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dry_gauge.core.words import Phrase

GROUND_TWICE = "grounded_twice"


@dataclass(frozen=True, slots=True, eq=False)
class Line:
    """One thing to find out.

    Parameters
    ----------
    asks : str
        What to do, in words.
    answers : mapping of str to (str, str, float)
        By answer: its words, what it means, and how much it speaks for a dead compressor (below zero against).
    minutes : int
    excludes : str
        What else it rules out, or in.
    """

    name: str
    asks: str
    answers: Mapping[str, tuple[str, str, float]]
    minutes: int
    excludes: str = ""


LINES: tuple[Line, ...] = (
    Line("ground", "Ohms to ground, power off, wires off, terminals clean", {
        "good": ("over 20 megohm", "the windings are not grounded", -0.5),
        "low": ("under 1 megohm", "crankcase heater first, then again; the maker's limit wins", 0.4),
        "grounded": ("about zero", "measure it once more; power stays off", 1.5),
        GROUND_TWICE: ("about zero, twice", "proven: power stays off, its terminals can blow out", 9.0),
    }, 6),
    Line("terminals", "Volts at its terminals while it is called", {
        "right": ("right while it tries", "the supply is there", 0.5),
        "low": ("low or missing", "supply, contactor or wire: not the compressor", -2.0),
        "not_called": ("none, not called", "controls: not the compressor", -2.0),
    }, 4, "supply"),
    Line("overload", "Common to start and run; is the shell hot?", {
        "closed": ("all three read", "the overload is closed", 0.2),
        "open_hot": ("common open, shell hot", "internal overload: one to four hours, then why it was hot", -2.0),
        "open_cold": ("common open, shell cold for hours", "the overload or the common is open for good", 2.0),
    }, 5, "overload"),
    Line("windings", "Three ohms: the two smaller add up to the largest", {
        "fit": ("they fit", "no winding is open; a short is not excluded", -0.3),
        "open": ("one is open", "a winding is open", 2.0),
        "unlike": ("they do not fit", "turns are shorted, or a wire is still on", 1.2),
    }, 6),
    Line("start_gear", "Capacitor and relay: measured, or changed for known good ones", {
        "good": ("good", "it is not the start gear", 0.6),
        "bad": ("bad", "change it before anything is said", -2.5),
    }, 5, "start gear"),
    Line("start_aid", "Tried with a start aid", {
        "starts": ("starts", "tight or a weak start: not dead", -2.0),
        "no": ("does not start", "", 0.8),
    }, 10),
    Line("amps", "Amps while it is called", {
        "none": ("none", "nothing flows: an open overload, winding, wire or plug", 0.3),
        "normal": ("as it should run", "it runs: look at what it pumps", -0.5),
        "locked": ("locked rotor", "seized, low volts, a dead capacitor, a lost leg, or a start against pressure", 1.0),
    }, 2),
    Line("equal", "Pressures before the start", {
        "equal": ("equal", "no start against pressure", 0.3),
        "unequal": ("not equal", "wait, and start again equal", -0.8),
    }, 3, "start against pressure"),
    Line("pumps", "Does it pump: suction shut, how deep, how fast", {
        "deep": ("pumps down", "its valves hold", -1.5),
        "not": ("equalized while it draws amps", "first: a scroll turning backwards, bypass, unloader, reversing valve", 1.5),
        "shallow": ("not deep, or comes back", "worn, or a valve that leaks by", 0.9),
    }, 8),
    Line("rotation", "Three phases: turns the right way", {
        "right": ("right", "not reversed", 0.3),
        "wrong": ("backwards", "swap two wires, then all of it again", -3.0),
    }, 3, "rotation"),
    Line("reversing_valve", "Heat pump: does the reversing valve warm the suction pipe by over 5 °F (3 °C)", {
        "no": ("no", "the valve does not leak by", 0.4),
        "yes": ("yes", "the valve, not the compressor", -2.0),
    }, 4, "reversing valve"),
    Line("plug", "Plug, wires and terminals at its dome", {
        "good": ("sound", "", 0.2),
        "burnt": ("burnt or loose", "mend it, then measure again", -1.5),
    }, 3, "plug"),
)  # fmt: skip
BY_NAME: Mapping[str, Line] = {line.name: line for line in LINES}

_LIKELY, _PROVEN = 1.5, 3.0
_KINDS: Mapping[str, str] = {
    "ground": "windings", "windings": "windings", "overload": "windings", "amps": "amps", "start_aid": "amps",
    "pumps": "pumping", "terminals": "supply", "start_gear": "start", "equal": "start", "rotation": "supply",
    "reversing_valve": "pumping", "plug": "supply",
}  # fmt: skip
# Before these are known nothing but a ground is proven: each of them makes a sound compressor look dead.
_MUST = ("terminals", "overload", "start_gear")
_MUST_PUMPING = ("rotation", "reversing_valve")


@dataclass(frozen=True, slots=True)
class CompressorVerdict:
    """Where the evidence stands, what is missing, and the cheapest next test."""

    state: str
    score: float
    missing: tuple[Line, ...]
    next: Line | None
    phrase: Phrase
    power_stays_off: bool = False


def judge_compressor(answers: Mapping[str, str], *, three_phase: bool = False, heat_pump: bool = False) -> CompressorVerdict:
    """What the lines answered so far prove.

    Parameters
    ----------
    answers : mapping of str to str
        By line its answer, see `LINES`; what is not known is left out.
    """
    known = {name: answer for name, answer in answers.items() if name in BY_NAME and answer in BY_NAME[name].answers}
    fitting = fitting_lines(three_phase=three_phase, heat_pump=heat_pump)
    open_lines = sorted((line for line in fitting if line.name not in known), key=lambda line: line.minutes)
    if known.get("ground") == GROUND_TWICE:
        return CompressorVerdict("proven", 9.0, (), None, Phrase("Grounded, twice: proven. Power stays off."), True)
    if known.get("ground") == "grounded":
        again = BY_NAME["ground"]
        words = "Grounded once: power stays off. Wires off, terminals clean, once more."
        return CompressorVerdict("likely", 1.5, (again,), again, Phrase(words), True)
    score = sum(BY_NAME[name].answers[answer][2] for name, answer in known.items())
    for_it = {name for name, answer in known.items() if BY_NAME[name].answers[answer][2] >= 0.8}
    pumping = any(name == "pumps" for name in for_it)
    must = _MUST_PUMPING if pumping and not for_it - {"pumps"} else _MUST
    missing = tuple(line for line in open_lines if line.name in must)
    meant = [BY_NAME[name].answers[answer] for name, answer in known.items()]
    cleared = next((means for _, means, weight in meant if weight <= -1.5), None)
    following = _first(missing, open_lines)
    kinds = {_KINDS[name] for name in for_it}
    if cleared is not None:
        return CompressorVerdict("not_proven", score, missing, following, Phrase(f"Not the compressor so far: {cleared}."))
    if score >= _PROVEN and len(kinds) >= 2 and not missing:
        words = "Proven by two kinds of evidence, and what looks like it is ruled out."
        return CompressorVerdict("proven", score, (), None, Phrase(words))
    if score >= _LIKELY and for_it:
        lacks = ", ".join(line.excludes for line in missing if line.excludes)
        words = f"Likely, not proven: {lacks} not ruled out." if lacks else "Likely, not proven: one kind of evidence only."
        return CompressorVerdict("likely", score, missing, following, Phrase(words))
    return CompressorVerdict("not_proven", score, missing, following, Phrase("Not proven: evidence is thin."))


def _first(missing: tuple[Line, ...], open_lines: list[Line]) -> Line | None:
    return next(iter(sorted(missing, key=lambda line: line.minutes)), None) or next(iter(open_lines), None)


def fitting_lines(*, three_phase: bool, heat_pump: bool) -> list[Line]:
    """The lines that such a compressor has."""
    only = {"rotation": three_phase, "start_gear": not three_phase, "start_aid": not three_phase, "reversing_valve": heat_pump}
    return [line for line in LINES if only.get(line.name, True)]
