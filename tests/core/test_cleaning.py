"""Cleaning: which chemistry a coil bears, and how a can is mixed."""

from __future__ import annotations

import pytest

from dry_gauge.core.cleaning.coil import Cleaner, CoilKind, may_clean, mixture
from dry_gauge.core.errors import Refused


@pytest.mark.parametrize(
    ("coil", "cleaner", "maker", "state"),
    [
        (CoilKind.MICRO_CHANNEL, Cleaner.WATER, False, "yes"),
        (CoilKind.MICRO_CHANNEL, Cleaner.NEUTRAL, False, "with_care"),
        (CoilKind.MICRO_CHANNEL, Cleaner.ALKALINE, False, "no"),
        (CoilKind.MICRO_CHANNEL, Cleaner.ALKALINE, True, "yes"),
        (CoilKind.MICRO_CHANNEL, Cleaner.ACID, True, "no"),
        (CoilKind.COATED, Cleaner.BRIGHTENER, True, "no"),
        (CoilKind.COPPER_ALUMINIUM, Cleaner.ALKALINE, False, "yes"),
        (CoilKind.COPPER_ALUMINIUM, Cleaner.BRIGHTENER, False, "no"),
        (CoilKind.COPPER_ALUMINIUM, Cleaner.BRIGHTENER, True, "with_care"),
        (CoilKind.SPINE_FIN, Cleaner.ACID, False, "no"),
    ],
)
def test_what_eats_fins_is_refused(coil, cleaner, maker, state):
    assert may_clean(coil, cleaner, maker_allows=maker).state == state


@pytest.mark.parametrize("ratio", ["1:10", "1 to 10", "10:1", "1/10", " 1 : 10 ", "0,5:5", "1 in 11"])
def test_a_ratio_is_read_as_people_write_it(ratio):
    cleaner, water = mixture(ratio, 11.0)
    assert (cleaner, water) == pytest.approx((1.0, 10.0))


@pytest.mark.parametrize("ratio", ["1 to", "1:", "a bit", "0:10", "1:10:3"])
def test_a_ratio_that_is_none_is_refused(ratio):
    with pytest.raises(Refused):
        mixture(ratio, 5.0)
