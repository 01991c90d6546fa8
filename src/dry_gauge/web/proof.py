"""The proof sheet of a visit's sealed work: recovery, holds, vacuum, charge and final readings, as HTML and as PDF."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime
from functools import cache
from typing import Any

from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.charge.mass import GRAM_KG, forms
from dry_gauge.core.dimensions import MICRON_PA
from dry_gauge.core.sealed.leak_search import BY_CODE, METHOD_WORDS
from dry_gauge.core.sealed.opening import REPAIR_WORDS
from dry_gauge.core.sealed.vacuum import END_POINTS
from dry_gauge.core.words import Reader
from dry_gauge.drawing import hold_plot, vacuum_curve
from dry_gauge.notebook.subjects.leak import CURE_WORDS
from dry_gauge.notebook.subjects.opening import worked_on
from dry_gauge.present.account import account_of
from dry_gauge.present.hold import HOLD_WORDS
from dry_gauge.present.proof import proof
from dry_gauge.present.scene import Scene
from dry_gauge.present.vacuum import RISE_WORDS
from dry_gauge.present.visit import VisitView
from dry_gauge.service.apart import Apart
from dry_gauge.service.notebooks import as_closed
from dry_gauge.service.scenes import scene_of
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import find_unit, people_of_visit
from dry_gauge.web.paper import by_day, coloured, paper
from dry_gauge.web.stations.pictures import evacuation_svg, shown


def proof_values(connection: Connection, view: VisitView, someone: Someone, reader: Reader, now: datetime) -> dict[str, Any]:
    """Everything the sheet shows, as it stood when the visit was closed."""
    scene = scene_of(
        connection, as_closed(connection, view, someone.superheat_school), someone, reader, ("weights", "trace"), now=now
    )
    return {
        "view": scene.view,
        "visit": view.visit,
        "unit": find_unit(connection, view.visit.unit_id),
        "units": reader,
        "now": now,
        "people": people_of_visit(connection, view.visit.id),
        "shop_name": someone.shop_name,
        "forms": forms,
        "GRAM_KG": GRAM_KG,
        "REPAIRS": REPAIR_WORDS,
        "PLACES": BY_CODE,
        "METHOD_WORDS": METHOD_WORDS,
        "CURES": CURE_WORDS,
        "RISE": RISE_WORDS,
        "END_POINTS": END_POINTS,
        "MICRON_PA": MICRON_PA,
        "HOLD": HOLD_WORDS,
        "metric": scene.metric,
        "by_circuit": [_of_circuit(replace(scene, circuit=number)) for number in worked_on(scene.view.state)],
        "several": scene.view.has_several_circuits,
    }


def _of_circuit(scene: Scene) -> dict[str, Any]:
    """What the sheet shows of one circuit."""
    sheet, number = proof(scene), scene.circuit
    pictures = {one.key: evacuation_svg(one, vacuum_curve.DESK, f"proof-{number}-{i}") for i, one in enumerate(sheet.systems)}
    holds = hold_plot.hold_svg(sheet.sections, scene.reader, hold_plot.DESK, f"proof-hold-{number}") if sheet.sections else ""
    return {
        "number": number,
        "view": scene.view.of_circuit(number),
        "hold_drawing": Markup(holds),  # noqa: S704  our own drawing
        "vacuum_drawings": {key: Markup(text) for key, text in pictures.items() if text},  # noqa: S704
        **shown(sheet),
        **shown(account_of(scene)),
    }


def proof_pdf(press: Apart, values: Mapping[str, Any]) -> bytes:
    """The sheet as PDF."""
    charts = _charts()
    own = [
        {
            **one,
            "hold_drawing": _styled(one["hold_drawing"], charts),
            "vacuum_drawings": {key: _styled(text, charts) for key, text in one["vacuum_drawings"].items()},
        }
        for one in values["by_circuit"]
    ]
    return paper(press, "visits/proof_pdf.html", {**values, "by_circuit": own}, "proof.css")


def _styled(drawing: str, styles: str) -> Markup:
    """A drawing that carries its own style sheet: a PDF does not lend it the page's."""
    return Markup(str(drawing).replace("<title", f"<style>{styles}</style><title", 1))  # noqa: S704


@cache
def _charts() -> str:
    """The drawings' style sheet as a PDF takes it: it paints a text's outline over it, not under it."""
    charts = re.sub(r"paint-order: stroke;[^}]*?stroke-width: \d+px;", "", by_day("charts.css"))
    return charts + coloured(".hatch-line { stroke: var(--hatch); stroke-width: 2.6; }")
