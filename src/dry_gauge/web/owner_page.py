"""A visit's report for its owner as a page and as PDF: the same sentences, in the language and units that were chosen."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import datetime
from functools import cache, partial
from typing import Any

from markupsafe import Markup
from sqlalchemy import Connection

from dry_gauge.core.local_time import local
from dry_gauge.core.statements import Amount, Statement
from dry_gauge.core.words import Reader
from dry_gauge.drawing.ruler import Ruler, ruler_svg
from dry_gauge.exchange.language import Language
from dry_gauge.present.owner_report import Number, owner_report, written_at
from dry_gauge.present.visit import VisitView
from dry_gauge.service.apart import Apart
from dry_gauge.store.owners import Chosen
from dry_gauge.store.register import find_photo
from dry_gauge.store.visits import find_unit, people_of_visit
from dry_gauge.web.owner_offer import offer_values
from dry_gauge.web.paper import coloured, paper
from dry_gauge.web.render import STATIC

Tell = Callable[[Statement], str]


def report_values(
    connection: Connection,
    view: VisitView,
    chosen: Chosen,
    language: Language,
    reader: Reader,
    shop_name: str,
    now: datetime,
    pictures_at: str,
) -> dict[str, Any]:
    """Everything that the report's template needs.

    Parameters
    ----------
    pictures_at : str
        What stands before a picture's id in its address.
    """
    report = owner_report(view, chosen.pictures)
    tell, amount = partial(language.tell, reader=reader), partial(language.amount, reader=reader)
    return {
        **offer_values(connection, view.visit.id, language, reader),
        "report": report,
        "own_words": chosen.words,
        "say": language.say,
        "tell": tell,
        "amount": amount,
        "lang": language.code,
        "shop_name": shop_name,
        "visit": view.visit,
        "unit": find_unit(connection, view.visit.unit_id),
        "day_of": language.day(local(view.visit.planned_for)),
        "as_of": language.day(local(written_at(view, now))),
        "people": people_of_visit(connection, view.visit.id) or [view.visit.technician],
        "pictures_at": pictures_at,
        "rulers": [_ruler(number, tell, amount, i) for i, number in enumerate(report.numbers)],
    }


def report_pictures(connection: Connection, values: Mapping[str, Any]) -> dict[str, bytes]:
    """The pictures that were chosen, for the PDF."""
    found = {str(photo): find_photo(connection, photo, small=False) for photo, _ in values["report"].pictures}
    return {name: picture for name, picture in found.items() if picture is not None}


def report_pdf(press: Apart, values: Mapping[str, Any], pictures: Mapping[str, bytes]) -> bytes:
    """The report as PDF; takes a while, so nothing should be held meanwhile."""
    drawings = {
        "rulers": [styled(one) for one in values["rulers"]],
        **{name: styled(values[name]) for name in ("chart", "signed") if values.get(name)},
    }
    inside = {**values, **drawings, "pictures_at": "picture:"}
    return paper(press, "owner/report_pdf.html", inside, "owner.css", pictures=pictures)


def styled(drawing: str) -> Markup:
    """A drawing that carries its own styles: a PDF does not lend it the page's."""
    return Markup(str(drawing).replace("<title", f"<style>{_drawing_styles()}</style><title", 1))  # noqa: S704  our own drawing


@cache
def _drawing_styles() -> str:
    lines = (STATIC / "owner.css").read_text().splitlines()
    return coloured("\n".join(line for line in lines if line.startswith((".ruler-", ".pay-", ".signed"))))


def _ruler(number: Number, tell: Tell, amount: Callable[[Amount], str], place: int) -> Markup:
    """The number as it lies against what it should be."""
    low, high, aim, most = (_si(number.should.values.get(name)) for name in ("low", "high", "aim", "most"))
    if aim is not None:
        low = high = aim
    now, before = number.now, number.before
    drawn = Ruler(low, most if most is not None else high, _si(now), _si(before), _off(now), _off(before))
    words = ", ".join([*(amount(one) for one in (before, now) if one), tell(number.should)])
    return Markup(ruler_svg(drawn, tell(number.what), words, f"ruler-{place}"))  # noqa: S704


def _si(value: object) -> float | None:
    return value.value_si if isinstance(value, Amount) else None


def _off(amount: Amount | None) -> float:
    return amount.plus_minus_si or 0.0 if amount else 0.0
