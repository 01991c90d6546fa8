"""The proof sheet of a visit's sealed work: recovery, holds, vacuum, charge and final readings, as HTML and as PDF."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from functools import cache
from typing import Any

from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.judgement.evidence import GAP_LABELS
from dry_gauge.core.leak_search import BY_CODE, METHOD_WORDS
from dry_gauge.core.mass import GRAM_KG, forms
from dry_gauge.core.opening import REPAIR_WORDS
from dry_gauge.core.vacuum import END_POINTS, MICRON_PA
from dry_gauge.core.words import Reader
from dry_gauge.drawing import hold_plot, vacuum_curve
from dry_gauge.exchange.pdf import pdf_of
from dry_gauge.notebook.subjects.charge import MOVEMENT_WORDS
from dry_gauge.notebook.subjects.leak import CURE_WORDS
from dry_gauge.notebook.subjects.readings import Readings
from dry_gauge.notebook.subjects.running import Running
from dry_gauge.service.notebooks import VisitView
from dry_gauge.service.settings import shop_settings
from dry_gauge.store.people import Someone
from dry_gauge.store.visits import find_unit, people_of_visit
from dry_gauge.web.desks import account
from dry_gauge.web.render import STATIC, TEMPLATES, circuit_of
from dry_gauge.web.tightness import (
    HOLD_WORDS,
    RISE_WORDS,
    evacuations,
    hold_picture,
    holds_of,
    rate_words,
    vacuum_picture,
)

_GAPS = (
    "superheat",
    "coil_superheat",
    "subcooling",
    "evaporator_td",
    "condenser_split",
    "air_split",
    "discharge_superheat",
)
_FONTS = ("b612-latin-400-normal.woff2", "b612-latin-700-normal.woff2")

_PLAIN = (
    'body { font: 10pt/1.35 "B612", "DejaVu Sans", sans-serif; color: #14201f; margin: 0; } '
    "p, h1, h2, h3, dl, dd { margin: 0; } small { font-weight: 400; }"
)


@dataclass(frozen=True, slots=True)
class Final:
    """One gap as it was read last, with its band and where that comes from."""

    name: str
    found: str
    band: str
    source: str


def proof_values(
    connection: Connection, view: VisitView, someone: Someone, reader: Reader, now: datetime
) -> dict[str, Any]:
    """Everything the sheet shows. What was not done is said to be missing, never left out."""
    settings = shop_settings(connection)
    pulled = evacuations(connection, view, now)
    systems = [one for one in pulled if one.kept.body.what == "system"]
    holds = holds_of(view, settings)
    pictures = {one.key: vacuum_picture(one, vacuum_curve.DESK, f"proof-{i}") for i, one in enumerate(systems)}
    hold_drawing = (
        hold_picture(view, settings, reader, hold_plot.DESK, "proof-hold") if any(one.verdict for one in holds) else ""
    )
    return {
        "view": view, "visit": view.visit, "unit": find_unit(connection, view.visit.unit_id),
        "people": people_of_visit(connection, view.visit.id), "units": reader, "now": now, "settings": settings,
        "metric": someone.weight_unit == "kg", "forms": forms, "GRAM_KG": GRAM_KG, "shop_name": someone.shop_name,
        "REPAIRS": REPAIR_WORDS, "PLACES": BY_CODE, "METHOD_WORDS": METHOD_WORDS, "CURES": CURE_WORDS,
        "MOVEMENT_WORDS": MOVEMENT_WORDS,
        "rigs": [one for one in pulled if one.kept.body.what == "rig"], "systems": systems, "RISE": RISE_WORDS,
        "END_POINTS": END_POINTS, "MICRON_PA": MICRON_PA, "holds": holds, "HOLD": HOLD_WORDS,
        "rates": {one.key: rate_words(one, reader) for one in holds if one.verdict},
        "hold_drawing": Markup(hold_drawing),  # noqa: S704  our own drawing
        "vacuum_drawings": {key: Markup(text) for key, text in pictures.items() if text},  # noqa: S704
        "finals": _finals(view, reader), "read_at": view.state[Running].read_at, **account(connection, view, settings, None),
    }  # fmt: skip


def _finals(view: VisitView, reader: Reader) -> list[Final]:
    judged = circuit_of(view, 1) if view.state[Readings].latest else None
    if judged is None:
        return []
    found = []
    for name in _GAPS:
        derived, target = judged.derived.get(name), judged.targets.get(name)
        if derived is None:
            continue
        said = f"{reader.say('difference', derived.value)} ±{reader.difference(derived.uncertainty):.1f}"
        band = source = ""
        if target is not None:
            band = f"{reader.difference(target.low_k):.0f} to {reader.say('difference', target.high_k)}"
            source = target.source + (", assumed" if target.assumed else "")
            source += f"; {target.indication_only}" if target.indication_only else ""
        found.append(Final(GAP_LABELS.get(name, name.replace("_", " ")), said, band, source))
    return found


def proof_pdf(values: Mapping[str, Any]) -> bytes:
    """The sheet as PDF."""
    charts = _charts_by_day()
    inside = {
        "hold_drawing": _styled(values["hold_drawing"], charts),
        "vacuum_drawings": {key: _styled(text, charts) for key, text in values["vacuum_drawings"].items()},
    }
    html = TEMPLATES.get_template("visits/proof_pdf.html").render({**values, **inside})
    faces = "".join(
        f'@font-face {{ font-family: "B612"; src: url("font:{name}"); font-weight: {weight}; }}'
        for name, weight in zip(_FONTS, (400, 700), strict=True)
    )
    styles = faces + _PLAIN + (STATIC / "proof.css").read_text()
    return pdf_of(html, styles, {name: STATIC / "vendor" / name for name in _FONTS})


def _styled(drawing: str, styles: str) -> Markup:
    """A drawing that carries its own style sheet: a PDF does not lend it the page's."""
    return Markup(str(drawing).replace("<title", f"<style>{styles}</style><title", 1))  # noqa: S704


@cache
def _charts_by_day() -> str:
    """The drawings' style sheet with the day's colours in place of their names."""
    page = (STATIC / "app.css").read_text()
    day = dict(re.findall(r"(--[\w-]+):\s*([^;}]+);", page.split(":root {", 1)[1].split("}", 1)[0]))
    # A PDF paints a text's outline over it, not under it.
    charts = re.sub(r"paint-order: stroke;[^}]*?stroke-width: \d+px;", "", (STATIC / "charts.css").read_text())
    charts += ".hatch-line { stroke: var(--hatch); stroke-width: 2.6; }"
    return re.sub(r"var\((--[\w-]+)\)", lambda found: day[found[1]], charts)
