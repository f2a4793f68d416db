"""Which drops can show what is wanted."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.coach.goal import (
    IN_TIME,
    LARGE_OPEN_US,
    LEAST_GROWTH,
    MOST_GROWTH,
    SEARCHED,
    Goal,
    larger,
    trains,
)
from ondine.core.forecast.shapes import SHAPES
from ondine.core.setup import Setup, Valve
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


@given(
    st.lists(st.tuples(st.integers(4, 60), st.integers(20, 120)), min_size=1, max_size=4),
    st.floats(10, 200),
)
def test_larger_drops_keep_their_gaps_and_the_valves_limit(rows, limit_ms):
    drops, at_us = [], 0
    for open_ms, gap_ms in rows:
        drops.append(Pulse(at_us, open_ms * 1000))
        at_us += (open_ms + gap_ms) * 1000
    begin = Sequence.with_one_flash(tuple(drops), 300_000)
    setup = Setup(valves=(Valve(max_open_us=round(limit_ms * 1000)),))
    made = larger(begin, setup)
    largest = max(drop.open_us for drop in drops)
    if made is None:
        grows = min(LARGE_OPEN_US, round(limit_ms * 1000)) / largest
        assert grows < LEAST_GROWTH or grows > MOST_GROWTH
        return
    gaps = [(b.start_us - a.end_us, d.start_us - c.end_us) for a, b, c, d in zip(
        begin.drops, begin.drops[1:], made.drops, made.drops[1:], strict=False)]  # fmt: skip
    assert all(before == after for before, after in gaps) and made.flashes == begin.flashes
    opens = [drop.open_us for drop in made.drops]
    assert max(opens) <= min(LARGE_OPEN_US, round(limit_ms * 1000))
    assert all(new >= old.open_us for new, old in zip(opens, begin.drops, strict=True))
