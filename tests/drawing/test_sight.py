"""What can be looked at on a made-up unit is drawn and described, in order and not."""

from __future__ import annotations

from dataclasses import replace
from xml.etree import ElementTree as ET

import numpy as np
import pytest

from dry_gauge.bench.practice.calls import draw_dead
from dry_gauge.bench.practice.game import looks_on
from dry_gauge.core.vocabulary import Kind
from dry_gauge.drawing.sight import sight_svg
from dry_gauge.present.practice import SEEN


@pytest.mark.parametrize("kind", [Kind.SPLIT_AC, Kind.WALK_IN_COOLER])
def test_every_look_is_drawn_and_described_both_ways(kind):
    call = next(draw_dead(9, np.random.default_rng(1), (Kind.SPLIT_AC,)))
    call = replace(call, facts=replace(call.facts, kind=kind, receiver=True))
    looks = [offer.name for offer in looks_on(call)]
    assert len(looks) > 10
    for name in looks:
        fine, found = (sight_svg(name, state, "one") for state in (False, True))
        assert ET.fromstring(fine).tag.endswith("svg")
        assert fine != found
        assert SEEN[name][0] != SEEN[name][1]
    assert sight_svg("tubes_rubbing", True, "one") == ""
