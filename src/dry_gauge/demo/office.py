"""The demo shop's office: prices, what power costs, options for the port's old rooftop, a part that waits."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any
from uuid import UUID

from sqlalchemy import Connection, insert

from dry_gauge.core.office.money import LineSort, Per
from dry_gauge.core.office.offer import OfferLine, Option, OptionSort
from dry_gauge.demo.ids import ident
from dry_gauge.service.notebooks import load
from dry_gauge.service.proposals import draft_of, keep_option, offer
from dry_gauge.store.models import PartOrder, PriceRow
from dry_gauge.store.people import Someone

SETTINGS: dict[str, Any] = {"currency": "USD", "kwh_price": [0.14, 0.19], "full_load_hours": [900, 1500], "price_per_kg": 48.0}
# Code, what, sort, for one of what, hundredths, on hand.
PRICES = (
    ("LAB", "Labor", "labor", "hour", 128_00, None),
    ("TRIP", "Trip in town", "trip", "each", 65_00, None),
    ("DISP", "Old unit taken away", "disposal", "each", 180_00, None),
    ("R410A", "R-410A", "refrigerant", "lb", 38_00, None),
    ("R22", "R-22, reclaimed", "refrigerant", "lb", 96_00, None),
    ("CMP-5T22", "Compressor, 5 ton, R-22", "part", "each", 1485_00, 0),
    ("CNT-2P40", "Contactor, two poles, 40 A", "part", "each", 42_00, 6),
    ("CAP-45", "Run capacitor 45 µF", "part", "each", 24_50, 9),
    ("DRY-083", "Drier 3/8 flare", "part", "each", 36_00, 4),
    ("FLT-2025", "Filter 20 x 25 x 2", "part", "each", 11_75, 38),
    ("NR-060-5", "Rooftop, 5 ton, SEER 15", "unit", "each", 8650_00, None),
    ("CURB-5", "Curb adapter", "unit", "each", 640_00, None),
    ("SEASON", "Season discount", "discount", "each", -250_00, None),
)


def add_office(owner: Connection, someone: Someone, old_rooftop: UUID, today: datetime) -> None:
    """Put it all in.

    Parameters
    ----------
    ids : callable
        Makes the same id of the same names at every seeding.
    old_rooftop : UUID
        The visit whose owner has to decide.
    """
    for code, what, sort, per, cents, on_hand in PRICES:
        row = {"code": code, "what": what, "sort": sort, "per": per, "cents": cents, "on_hand": on_hand}
        owner.execute(insert(PriceRow).values(shop_id=someone.shop_id, id=ident("price", code), **row))
    made = today - timedelta(days=2)
    for option in _options():
        keep_option(owner, draft_of(owner, someone, old_rooftop, made), None, option)
    offer(owner, someone, draft_of(owner, someone, old_rooftop, made), load(owner, someone, old_rooftop), made)
    owner.execute(
        insert(PartOrder).values(
            shop_id=someone.shop_id,
            id=ident("part", "motor"),
            unit_id=ident("unit", "pottery"),
            person_id=someone.person_id,
            made_at=today - timedelta(days=9),
            what="Blower motor 1/2 hp",
            number="BM-12-1075",
            pieces=1,
            other_piece="capacitor comes too; wheel is sound",
            from_whom="Harbour Supply",
            ordered_on=(today - timedelta(days=8)).date(),
            expected_on=(today - timedelta(days=2)).date(),
            arrived_on=(today - timedelta(days=1)).date(),
        )
    )


def _options() -> tuple[Option, ...]:
    listed = {code: (what, sort, per, cents) for code, what, sort, per, cents, _ in PRICES}

    def line(code: str, count: float) -> OfferLine:
        what, sort, per, cents = listed[code]
        return OfferLine(sort=LineSort(sort), what=what, per=Per(per), thousandths=round(count * 1000), cents_each=cents)

    def lines(**counts: float) -> tuple[OfferLine, ...]:
        return tuple(line(code.replace("_", "-"), count) for code, count in counts.items())

    repair = lines(CMP_5T22=1, CNT_2P40=1, CAP_45=1, DRY_083=1, R22=9, LAB=9, TRIP=2)
    new = lines(NR_060_5=1, CURB_5=1, LAB=14, TRIP=2, DISP=1, SEASON=1)
    return (
        Option(sort=OptionSort.REPAIR, lines=repair, leaves="Coils, fans and controls stay as old as they are."),
        Option(sort=OptionSort.REPLACE, lines=new, new_seer=15, leaves="The ducts stay as they are."),
    )
