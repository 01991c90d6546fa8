"""The judgement as the screens show it: warnings that can be put aside, likelihood in words, the technician's own verdict."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import hypot

from markupsafe import Markup

from dry_gauge.core.judgement.assess import CircuitAssessment
from dry_gauge.core.judgement.calibration import group_names
from dry_gauge.core.judgement.evidence import GAP_LABELS, LIKELIHOODS
from dry_gauge.core.judgement.features import DIFFERENCES
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Phrase, Reader
from dry_gauge.drawing.geometry import PHONE
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.drawing.ph import ph_svg
from dry_gauge.drawing.trend import curves, trend_svg
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.verdicts import Verdicts
from dry_gauge.service.notebooks import VisitView
from dry_gauge.web.render import Headline, headline


@dataclass(frozen=True, slots=True)
class Doubt:
    """An oddity or a question about the readings; `put_aside` is the reason for which it was, and by which entry."""

    name: str
    phrase: Phrase
    readings: tuple[str, ...]
    basis: str
    question: bool
    put_aside: str | None
    entry_id: str | None


def warnings(view: VisitView, circuit: CircuitAssessment) -> list[Doubt]:
    """Everything to make sure of, open ones first."""
    found = []
    doubted = {oddity.phrase for oddity in circuit.oddities if oddity.code == "looks_misread"}
    asked = [(f"ask_{question.misreading.value}", question.phrase, question.readings, True)
             for question in circuit.questions if question.phrase not in doubted]  # fmt: skip
    odd = [(oddity.code, oddity.phrase, oddity.readings, False) for oddity in circuit.oddities]
    for name, phrase, readings, question in (*odd, *asked):
        basis = view.state[Readings].basis(readings, circuit.view.number)
        name = f"{name}_{circuit.view.number}"
        aside = view.state[Verdicts].aside(name, basis)
        found.append(
            Doubt(
                name,
                phrase,
                tuple(readings),
                basis,
                question,
                aside.body.reason if aside else None,
                str(aside.entry_id) if aside else None,
            )
        )
    return sorted(found, key=lambda warning: warning.put_aside is not None)


def likelihood_words(probability: float) -> str:
    """A probability in one word; the ranges stand on the page of each fault."""
    return next(words for least, words in LIKELIHOODS if probability >= least)


def ph_view(circuit: CircuitAssessment, reader: Reader) -> Markup:
    """The cycle's picture as page text."""
    return Markup(ph_svg(circuit, reader))  # noqa: S704


@dataclass(frozen=True, slots=True)
class Column:
    """One circuit beside the others."""

    number: int
    headline: Headline
    drawing: Markup


@dataclass(frozen=True, slots=True)
class CompareRow:
    """One gap of all circuits; `unlike` where they are further apart than their instruments explain."""

    label: str
    values: tuple[str, ...]
    apart: str
    unlike: bool


def side_by_side(view: VisitView, reader: Reader) -> tuple[list[Column], list[CompareRow]]:
    """Every circuit's ladder and verdict, and their gaps compared."""
    circuits = list(view.assessment.circuits.items()) if view.assessment else []
    columns = [
        Column(number, headline(circuit, reader), Markup(ladder_svg(circuit, reader, PHONE, f"ladder-{number}")))  # noqa: S704
        for number, circuit in circuits
    ]
    rows = []
    for name, label in GAP_LABELS.items():
        found = [circuit.derived.get(name) for _, circuit in circuits]
        read = [one for one in found if one is not None]
        if name not in DIFFERENCES or not read:
            continue
        values = tuple(
            f"{reader.difference(one.value):.1f} ± {reader.difference(one.uncertainty):.1f}" if one else "not read"
            for one in found
        )
        apart_k = max(one.value for one in read) - min(one.value for one in read)
        error_k = hypot(*(one.uncertainty for one in read))
        several = len(read) > 1
        rows.append(
            CompareRow(
                label, values, f"{reader.difference(apart_k):.1f}" if several else "", several and apart_k > error_k
            )
        )
    return columns, rows


SORTS = {
    "comfort_valve": "cooling, with a valve", "comfort_fixed": "cooling, fixed orifice",
    "heating_valve": "heating, with a valve", "heating_fixed": "heating, fixed orifice",
    "cooler": "walk-in cooler", "freezer": "walk-in freezer", "box_fixed": "walk-in with a capillary",
}  # fmt: skip


def sort_of(facts: UnitFacts) -> str:
    """The sort of unit whose trends to show."""
    return group_names(facts)[0]


def trends(fault: Fault, sort: str, reader: Reader) -> Iterator[Markup]:
    """A fault's curves on one sort of unit, as page text; none for what has no size."""
    if fault in (Fault.NONE, Fault.WRONG_REFRIGERANT):
        return
    found = curves(fault, sort)
    tallest = max(8.0, *(abs(shift) for points in found.values() for _, shift, _ in points[:-1]))
    for name, points in found.items():
        yield Markup(trend_svg(name, points, reader, tallest, f"trend-{name}"))  # noqa: S704


# Plain words for the page of each fault: what happens, what shows first, what is often mistaken for it.
FAULT_PAGES: dict[Fault, tuple[str, str, str]] = {
    Fault.NONE: (
        "The numbers are what this unit should show in today's weather, as near as instruments and installations go.",
        "Every gap stands inside its band and nothing seen speaks against it.",
        "A complaint may still be true: controls, zoning, drains, electrics and the building read normal on the refrigerant "
        "side.",
    ),
    Fault.UNDERCHARGE: (
        "There is too little refrigerant to keep the liquid line full, so the coil is fed partly with vapour.",
        "With a valve, subcooling goes first while the valve still holds superheat. On a fixed orifice suction falls and "
        "superheat climbs at once. With a receiver nothing shows until it runs empty; then the glass bubbles.",
        "A restriction starves the coil too, but with liquid to spare: low suction with high subcooling is never a lack of "
        "charge. Refrigerant does not wear out: find the leak.",
    ),
    Fault.OVERCHARGE: (
        "Liquid backs up into the condenser and leaves it less face to work with.",
        "Subcooling, head and amps rise; on a fixed orifice superheat falls towards flooding. A receiver hides it until full.",
        "Air in the system looks the same from the gauges: only the unit off and equalised tells them apart. A dirty "
        "condenser raises head without raising subcooling.",
    ),
    Fault.LOW_EVAPORATOR_AIRFLOW: (
        "Too little air brings heat to the evaporator: filter, coil face, wheel, belt, dampers, ice. In heating this is the "
        "outdoor coil.",
        "Suction falls, the gap to the entering air and the air split widen; on a fixed orifice superheat falls too.",
        "Low suction alone is often called low charge, and charge is added on top: prove the air first.",
    ),
    Fault.HIGH_EVAPORATOR_LOAD: (
        "More heat reaches the coil than the entering air explains: too much air on comfort units, an open door or warm "
        "product in a box.",
        "Suction rises and the gap to the air shrinks; on a fixed orifice superheat rises.",
        "A worn compressor also raises suction, but its head and amps fall.",
    ),
    Fault.LOW_CONDENSER_AIRFLOW: (
        "The condenser cannot get rid of its heat: dirt, a dead or backward fan, blown-back air. In heating this is the "
        "indoor coil, and its filter.",
        "Head, the condenser gap, discharge temperature and amps rise; the leaving air is hot or weak; it trips in the heat.",
        "Overcharge and air in the system raise head as well, but raise subcooling with it. Wash before anything is weighed.",
    ),
    Fault.LIQUID_LINE_RESTRICTION: (
        "Something in the liquid line takes pressure before the metering device: drier, screen, kink.",
        "The coil starves while liquid backs up before the obstacle; behind it the line drops in temperature or frosts as "
        "soon as liquid flashes.",
        "An underfeeding valve reads the same without that drop. No drop does not clear the drier while liquid behind it "
        "stays subcooled.",
    ),
    Fault.METERING_UNDERFEEDING: (
        "The metering device passes too little: plugged screen, lost bulb charge, stuck.",
        "Superheat climbs to 15-20 °F and beyond, suction falls, subcooling rises unless there is a receiver.",
        "Lack of charge starves the coil too, but without subcooling to spare.",
    ),
    Fault.METERING_OVERFEEDING: (
        "The metering device passes too much: stuck open, loose bulb, piston too large.",
        "Superheat nears nothing, suction rises, the discharge line runs cool; liquid may reach the compressor.",
        "Overcharge on a fixed orifice also drowns superheat, but with more subcooling.",
    ),
    Fault.NON_CONDENSABLES: (
        "Air or nitrogen in the system sits in the condenser, adds its own pressure and blankets the tubes.",
        "Head and apparent subcooling rise together, the discharge runs hot, the head is restless.",
        "Overcharge looks alike while running. Unit off and equalised, foreign gas stands above bubble at ambient.",
    ),
    Fault.INEFFICIENT_COMPRESSOR: (
        "Worn valves or scrolls, or on a heat pump a leaking reversing valve, let gas slip back.",
        "Suction up and head down together, low ratio, low amps, little capacity.",
        "Light load and an oversized metering device raise suction too; amps and head tell.",
    ),
    Fault.WRONG_REFRIGERANT: (
        "What is in the unit is not what its label or the gauge says, or it is a mixture.",
        "Nothing fits: superheat, subcooling and both gaps contradict each other until the pressures are read by another "
        "refrigerant's curve.",
        "First look whether the gauge was set to the right refrigerant. Identify before anything is added.",
    ),
}
