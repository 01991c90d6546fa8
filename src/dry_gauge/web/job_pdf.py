"""Reports for owners as a job makes them: without a request, in the language and units of whoever asked."""

from __future__ import annotations

from uuid import UUID

from sqlalchemy import Connection

from dry_gauge.exchange.language import language_named
from dry_gauge.service.apart import Apart
from dry_gauge.service.archive import Pdf
from dry_gauge.service.notebooks import as_closed, load
from dry_gauge.store.owners import chosen_for
from dry_gauge.store.people import Someone
from dry_gauge.web.owner_page import report_pdf, report_pictures, report_values
from dry_gauge.web.render import reader_of


def pdf_maker(press: Apart) -> Pdf:
    """What makes them."""

    def made(connection: Connection, someone: Someone, visit_id: UUID) -> bytes:
        view = as_closed(connection, load(connection, someone, visit_id), someone.superheat_school)
        values = report_values(
            connection,
            view,
            chosen_for(connection, visit_id),
            language_named(""),
            reader_of(someone, view.facts),
            someone.shop_name,
            someone.now(),
            "/photos/",
        )
        return report_pdf(press, values, report_pictures(connection, values))

    return made
