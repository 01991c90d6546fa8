"""Charging by the glass: what comes after each step, at its boundaries."""

from __future__ import annotations

import pytest

from dry_gauge.core.charge.small_steps import SmallStep, judge_steps
from dry_gauge.core.quantities import to_kelvin
from dry_gauge.core.words import Reader

DESIGN, NEAR, HOT = to_kelvin(38), to_kelvin(47), to_kelvin(49)


def step(glass="", minutes=20.0, kg=0.1, fell=None):
    return SmallStep(kg, minutes, glass, fell)


@pytest.mark.parametrize(
    ("steps", "box_k", "may_add", "words"),
    [
        ([step(minutes=4.0)], HOT, True, "Wait 11 min more"),
        ([step(minutes=14.6)], HOT, True, "Look at the glass now"),
        ([SmallStep(0.1, 20.0, "clear", None, 9.9)], HOT, True, "Look at the glass now"),
        ([SmallStep(0.1, 20.0, "clear", None, 10.0)], HOT, True, "again within 10.0 °F of design"),
        ([step("clear")], HOT, True, "again within 10.0 °F of design"),
        ([step("clear")], NEAR, True, "right by the glass"),
        ([step("clear")], None, True, "Read the box's air"),
        ([step("bubbles")], HOT, True, "one more small step"),
        ([step("bubbles")], HOT, False, "keeps more from going in"),
        ([step("bubbles")] * 2, HOT, True, "one more small step"),
        ([step("bubbles")] * 3, HOT, True, "3 steps and it still bubbles"),
        ([step("bubbles", kg=0.3)] * 2, HOT, True, "2 steps and it still bubbles"),  # a fifth of the label
        ([step("clear"), step("bubbles", kg=0.3), step("clear"), step("bubbles")], HOT, True, "one more small step"),
        ([step("bubbles", fell=4.0), step("bubbles", fell=1.9)], HOT, True, "fell slower"),
    ],
)
def test_what_comes_after_a_step(steps, box_k, may_add, words):
    assert words in judge_steps(steps, box_k, DESIGN, 3.0, may_add=may_add).read(Reader())


def test_nothing_is_said_before_the_first():
    assert judge_steps([], HOT, DESIGN, 3.0, may_add=True) is None
