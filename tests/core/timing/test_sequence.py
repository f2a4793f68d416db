import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.timing.sequence import MAX_TIME_US, Pulse, Sequence, SequenceError
from tests.core.timing.sequences import sequences


@pytest.mark.parametrize(
    ("drops", "flash", "says"),
    [
        ((), 0, "1 to 4 drops"),
        (tuple(Pulse(i * 100_000, 1_000) for i in range(5)), 0, "1 to 4 drops"),
        ((Pulse(-5_000, 20_000),), 0, "Drop 1 is at -5 ms"),
        ((Pulse(0, 20_000),), -1, "The flash is at"),
        ((Pulse(0, 20_000),), MAX_TIME_US + 1, "The flash is at"),
        ((Pulse(0, 0),), 0, "at least 1 ms"),
        ((Pulse(0, MAX_TIME_US + 1),), 0, "at most 5000 ms"),
        ((Pulse(0, 30_000), Pulse(20_000, 20_000)), 0, "start it at 31 ms or later"),
    ],
)
def test_bad_sequences_say_what_and_what_to_do(drops, flash, says):
    with pytest.raises(SequenceError, match=says):
        Sequence(drops, flash)


def test_all_problems_are_named_at_once():
    with pytest.raises(SequenceError) as caught:
        Sequence((Pulse(-1, 500),), -1)
    assert len(caught.value.problems) == 3


@given(sequences(), st.integers(0, 3), st.integers(-MAX_TIME_US, 2 * MAX_TIME_US))
def test_no_edit_can_make_a_bad_sequence(sequence, index, value):
    # Constructing one that breaks a rule would raise.
    index %= len(sequence.drops)
    sequence.with_flash(value)
    sequence.with_start(index, value)
    sequence.with_open(index, value)
    if len(sequence.drops) > 1:
        sequence.with_interval(index % (len(sequence.drops) - 1), value)


def test_interval_moves_all_later_drops():
    three = Sequence((Pulse(0, 20_000), Pulse(90_000, 20_000), Pulse(150_000, 20_000)), 300_000)
    moved = three.with_interval(0, 100_000)
    assert moved.intervals_us == (100_000, 60_000)
    assert moved.gaps_us == (80_000, 40_000)


def test_drops_come_and_go():
    one = Sequence((Pulse(0, 20_000),), 300_000)
    two = one.with_drop_added()
    assert two.intervals_us == (90_000,)
    assert two.with_drop_added().intervals_us == (90_000, 90_000)
    assert two.without_drop(0).drops == (Pulse(90_000, 20_000),)
    with pytest.raises(SequenceError):
        one.without_drop(0)
