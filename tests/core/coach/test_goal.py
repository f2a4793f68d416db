"""Which drops can show what is wanted."""

import math

import pytest

from ondine.core.coach.goal import IN_TIME, SEARCHED, Goal, trains
from ondine.core.forecast.shapes import SHAPES
from ondine.core.timing.limits import timing_problems
from ondine.core.timing.sequence import Pulse, Sequence

ONE = Sequence.with_one_flash((Pulse(0, 20_000),), 300_000)
TWO = Sequence.with_one_flash((Pulse(5_000, 20_000), Pulse(97_300, 24_000)), 300_000)


@pytest.mark.parametrize("shape", [*SEARCHED, None])
@pytest.mark.parametrize("begin", [ONE, TWO])
def test_each_goal_gets_as_many_drops_as_it_takes_and_all_can_be_fired(shape, begin):
    goal = Goal(shape)
    found = trains(goal, begin, 12)
    assert found
    for drops in found:
        assert len(drops) == goal.drops
        assert drops[0] == begin.drops[0]
        assert not list(timing_problems(Sequence.with_one_flash(drops, 300_000)))
    assert len(found) == 1 if goal.drops == 1 else len(set(found)) == len(found) > 8


def test_the_interval_in_hand_is_among_those_that_are_tried_and_sizes_are_kept():
    found = trains(Goal(), TWO, 12)
    assert TWO.drops in found
    assert {drops[1].open_us for drops in found} == {24_000}


def test_early_and_late_go_by_the_order_in_which_a_splash_unfolds():
    goal = Goal()
    assert [goal.lateness(shape) for shape in ("crown", "opening-umbrella", "full-umbrella", "torn-umbrella")] == [
        -1, -1, 0, 1,
    ]  # fmt: skip
    assert math.isnan(goal.lateness("blurred")) and math.isnan(Goal(None).lateness("crown"))
    assert {shape.key for shape in SHAPES} - set(IN_TIME) == {
        "merged-drop", "off-axis", "satellites-or-bubbles", "blurred", "ghosted",
    }  # fmt: skip


def test_how_many_drops_a_goal_takes():
    assert [Goal(shape).drops for shape in ("crown", "full-umbrella", "double-umbrella", None)] == [1, 2, 3, 2]
