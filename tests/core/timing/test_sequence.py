from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.timing.arrange import removed
from ondine.core.timing.items import drop, flash
from ondine.core.timing.limits import timing_problems
from ondine.core.timing.sequence import MAX_TIME_US, MIN_GAP_US, FlashPulse, Pulse, Sequence
from tests.core.timing.sequences import sequences


@given(sequences(), st.integers(0, 7), st.integers(-MAX_TIME_US, 2 * MAX_TIME_US))
def test_no_edit_can_make_a_sequence_that_no_table_fires(sequence, index, value):
    index %= len(sequence.drops)
    made = [
        sequence.with_flash(index % len(sequence.flashes), value),
        sequence.with_start(index, value),
        sequence.with_open(index, value),
    ]
    if len(sequence.drops) > 1:
        made.append(sequence.with_interval(index % (len(sequence.drops) - 1), value))
    assert [list(timing_problems(one)) for one in made] == [[]] * len(made)


def test_interval_moves_all_later_drops():
    three = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(90_000, 20_000), Pulse(150_000, 20_000)), 300_000)
    moved = three.with_interval(0, 100_000)
    assert moved.intervals_us == (100_000, 60_000)


def test_only_drops_of_the_same_valve_hold_each_other():
    both = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(5_000, 20_000, valve=1), Pulse(60_000, 20_000)), 300_000)
    assert both.with_start(1, 0).drops[1].start_us == 0
    assert both.with_start(2, 0).drops[2].start_us == 20_000 + MIN_GAP_US
    assert both.with_open(1, 100_000).drops[1].open_us == 100_000
    assert both.with_open(0, 100_000).drops[0].open_us == 60_000 - MIN_GAP_US
    # All later ones move along, until the first of them meets an earlier one of its own valve.
    squeezed = both.with_interval(0, -50_000)
    assert [p.start_us for p in squeezed.drops] == [0, 0, 55_000]
    wide = both.with_interval(1, 1_000)
    assert [p.start_us for p in wide.drops] == [0, 5_000, 21_000]


def test_drops_come_and_go():
    one = Sequence.with_one_flash((Pulse(0, 20_000),), 300_000)
    two = one.with_drop_added()
    assert two.intervals_us == (90_000,)
    assert two.with_drop_added().intervals_us == (90_000, 90_000)
    # After a long opening three of it, from start to start.
    long = Sequence.with_one_flash((Pulse(0, 50_000),), 300_000)
    assert long.with_drop_added().intervals_us == (150_000,)
    assert removed(two, frozenset({drop(0)}))[0].drops == (Pulse(90_000, 20_000),)


def test_a_drop_like_one_that_opened_with_it_on_another_valve_is_clear_of_it():
    together = Sequence.with_one_flash((Pulse(0, 20_000), Pulse(0, 30_000, valve=1)), 300_000).with_drop_added()
    assert together.drops[2] == Pulse(30_000 + MIN_GAP_US, 30_000, valve=1)


def test_flashes_come_and_go_and_tell_their_span():
    two = Sequence.with_one_flash((Pulse(0, 20_000),), 300_000).with_flash_added(290_000, output=1)
    assert (two.first_flash_us, two.last_flash_us, two.end_us) == (290_000, 300_000, 300_000)
    assert removed(two, frozenset({flash(0)}))[0].flashes == (FlashPulse(290_000, 1),)
    assert two.ordered().flashes == (FlashPulse(290_000, 1), FlashPulse(300_000))


@given(sequences())
def test_ordering_changes_numbers_alone(sequence):
    shuffled = replace(sequence, drops=sequence.drops[::-1], flashes=sequence.flashes[::-1])
    assert shuffled.ordered() == sequence.ordered() == sequence


@pytest.mark.parametrize("valve", [0, 1])
def test_neighbours_are_those_of_the_same_valve(valve):
    pulses = tuple(Pulse(start * 50_000, 10_000, start % 2) for start in range(5))
    sequence = Sequence.with_one_flash(pulses, 0)
    on_it = [i for i in range(5) if i % 2 == valve]
    assert [sequence.before_on_valve(i) for i in on_it] == [None, *on_it[:-1]]
    assert [sequence.after_on_valve(i) for i in on_it] == [*on_it[1:], None]
