"""Drawings as page text: ladders, cycles, fingerprints, trends, the survey's loop."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from uuid import UUID

from markupsafe import Markup

from dry_gauge.core.judgement.assess import Assessment, CircuitAssessment
from dry_gauge.core.judgement.calibration import group_names
from dry_gauge.core.sheet import UnitFacts
from dry_gauge.core.vocabulary import Fault
from dry_gauge.core.words import Reader
from dry_gauge.drawing.fingerprint import fingerprint_svg
from dry_gauge.drawing.geometry import DESK, PHONE, Geometry
from dry_gauge.drawing.ladder import ladder_svg
from dry_gauge.drawing.loop import LoopMark, loop_svg
from dry_gauge.drawing.ph import ph_svg
from dry_gauge.drawing.trend import curves, trend_svg
from dry_gauge.present.headline import Headline, headline
from dry_gauge.present.look import Look
from dry_gauge.present.visit import VisitView, circuit_of, judged_before

# The drawings write their own escaped SVG: this is the one place where it becomes page text.


def ladders(view: VisitView, reader: Reader, number: int, only: str | None = None) -> dict[str, Markup]:
    """The ladder for the pages asked for: ``desk``, ``phone``, or both."""
    circuit = circuit_of(view, number)
    return drawn(circuit, judged_before(view), reader, number, only) if circuit else {}


def drawn(
    circuit: CircuitAssessment, before: Assessment | None, reader: Reader, number: int, only: str | None = None
) -> dict[str, Markup]:
    """One judged circuit's ladder by page size, with the ghost of what was before."""
    ghost = before.circuits.get(number) if before else None
    sizes: dict[str, Geometry] = {"desk": DESK, "phone": PHONE}
    return {
        name: Markup(ladder_svg(circuit, reader, geometry, f"ladder-{name}", ghost))  # noqa: S704
        for name, geometry in sizes.items()
        if only in (None, name)
    }


def fingerprint(
    circuit: CircuitAssessment | None, title: str, ident: UUID, *, width: int = 150, height: int = 200, past: bool = False
) -> Markup:
    """A small ladder."""
    return Markup(fingerprint_svg(circuit, title, width, height, ident=f"fp-{ident}", past=past))  # noqa: S704


def look_loop(view: VisitView, look: Look) -> Markup:
    """The loop of the survey."""
    marks = [LoopMark(spot, words) for spot, words in look.marks]
    return Markup(loop_svg(view.facts, look.found, marks))  # noqa: S704


def ph_view(circuit: CircuitAssessment, reader: Reader) -> Markup:
    """The cycle's picture."""
    return Markup(ph_svg(circuit, reader))  # noqa: S704


@dataclass(frozen=True, slots=True)
class Column:
    """One circuit beside the others."""

    number: int
    headline: Headline
    drawing: Markup


def columns(view: VisitView, reader: Reader) -> list[Column]:
    """Every circuit's ladder and verdict."""
    circuits = view.assessment.circuits.items() if view.assessment else ()
    return [
        Column(number, headline(circuit, reader), Markup(ladder_svg(circuit, reader, PHONE, f"ladder-{number}")))  # noqa: S704
        for number, circuit in circuits
    ]


SORTS = {
    "comfort_valve": "cooling, with a valve", "comfort_fixed": "cooling, fixed orifice",
    "heating_valve": "heating, with a valve", "heating_fixed": "heating, fixed orifice",
    "cooler": "walk-in cooler", "freezer": "walk-in freezer", "box_fixed": "walk-in with a capillary",
}  # fmt: skip


def sort_of(facts: UnitFacts) -> str:
    """The sort of unit whose trends to show."""
    return group_names(facts)[0]


def trends(fault: Fault, sort: str, reader: Reader) -> Iterator[Markup]:
    """A fault's curves on one sort of unit; none for what has no size."""
    if fault in (Fault.NONE, Fault.WRONG_REFRIGERANT):
        return
    found = curves(fault, sort)
    tallest = max(8.0, *(abs(shift) for trend in found.values() for _, shift, _ in trend.points[:-1]))
    for name, trend in found.items():
        yield Markup(trend_svg(name, trend, reader, tallest, f"trend-{name}"))  # noqa: S704
