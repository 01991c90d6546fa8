"""A box whose air and product live probes follow: their samples stand between what was read."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest

from dry_gauge.bench.box import Box, pull_down
from dry_gauge.core.probes import ProbeState, Sample
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.words import Reader
from dry_gauge.present.box import box
from dry_gauge.service.notebooks import load
from dry_gauge.service.scenes import BOX_STEP_SECONDS, scene_of
from dry_gauge.store import samples

BOX = Box(to_kelvin(80), to_kelvin(38), to_kelvin(60), to_kelvin(52), 0.2, 0.015, 0.004, 2.0, 0.02)
MINUTES = 60


@pytest.fixture
def followed(make_shop, as_shop):
    shop = make_shop({"kind": "walk_in_cooler", "refrigerant": "R-448A", "metering": "txv", "design_box_temp_f": 38})
    now = datetime.now(UTC)
    at, air, product = pull_down(BOX, MINUTES)
    found, moments = [], []
    for n, (minute, one, other) in enumerate(zip(at, air, product, strict=True)):
        for i, (quantity, kelvin) in enumerate((("box_air_temp", one), ("product_temp", other))):
            found.append(Sample(2 * n + i + 1, minute * 60, f"P{i}", quantity, 1, float(kelvin), None, "F", ProbeState.OK, None))
            moments.append(now - timedelta(minutes=MINUTES - float(minute)))
    with as_shop(shop) as connection:
        samples.lock_hub(connection, shop.id, shop.visit, "hub")
        samples.add(connection, shop.id, shop.visit, "hub", found, moments, len(found), {})
        someone = shop.someone("technician")
        view = load(connection, someone, shop.visit)
        return box(scene_of(connection, view, someone, Reader(), {"box"}, now=now)), now


def test_a_live_box_is_forecast_and_its_product_clocked(followed):
    view, _ = followed
    assert view.air.forecast.state == "falling"
    assert len(view.air.trail) == pytest.approx(MINUTES * 60 / BOX_STEP_SECONDS, abs=2)
    (milk,) = view.foods
    assert milk.product == "product"
    assert milk.clock.above_min == pytest.approx(MINUTES, abs=3)
