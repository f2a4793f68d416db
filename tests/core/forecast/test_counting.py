import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief
from ondine.core.forecast.counting import Counting
from ondine.core.forecast.events import EventKind
from ondine.core.forecast.marks import marks_of
from ondine.core.forecast.prediction import Prediction
from ondine.core.setup import Counts
from ondine.core.timing.conventions import CONVENTIONS, Convention, LightFrom
from ondine.core.timing.items import FIRST_FLASH, drop
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import RACE, START, TIDAL_MILL
from tests.core.timing.sequences import sequences

TWO = Prediction.of(TIDAL_MILL, Belief(), START)
ONE = Prediction.of(TIDAL_MILL, Belief(), Sequence.with_one_flash((Pulse(0, 22_000),), 300_000))


@pytest.mark.parametrize("convention", CONVENTIONS)
def test_the_number_that_is_shown_typed_again_changes_nothing(convention):
    counting = Counting.of(convention, TWO)
    for index in range(len(START.drops)):
        assert counting.with_wait(START, index, counting.wait_us(START, index)) == START
    assert counting.with_delay(START, 0, counting.delay_us(START, 0)) == START


@given(sequences(valves=1), st.sampled_from(list(Counts)))
def test_waits_add_up_to_the_starts_that_they_tell(sequence, counts):
    counting = Counting(Convention(counts), LightFrom.TRIGGER)
    for index, pulse in enumerate(sequence.drops):
        assert counting.wait_base_us(sequence, index) + counting.wait_us(sequence, index) == pulse.start_us


def test_a_gap_typed_moves_the_later_drops_along_and_a_start_from_the_trigger_one_alone():
    three = START.with_drop_added()
    gap = Counting(Convention(Counts.CLOSING_TO_OPENING), LightFrom.TRIGGER).with_wait(three, 1, 80_000)
    assert [p.start_us for p in gap.drops] == [0, 102_000, 197_000]
    start = Counting(Convention(Counts.ABSOLUTE), LightFrom.TRIGGER).with_wait(three, 1, 102_000)
    assert [p.start_us for p in start.drops] == [0, 102_000, 190_000]


def test_flashes_count_from_what_the_forecast_foresees():
    meeting = next(e for e in TWO.course.events if e.kind is EventKind.MEETING)
    counting = Counting.of(Convention(light_from=LightFrom.MEETING), TWO)
    assert counting.delay_us(START, 0) == START.first_flash_us - round(meeting.time_s.mean * 1e6)
    assert counting.tells(counting.base_us + 5_000) == "5.0 ms from the predicted meeting"


def test_where_nothing_meets_the_trigger_counts_and_that_is_said():
    counting = Counting.of(Convention(light_from=LightFrom.MEETING), ONE)
    assert counting.light_from is LightFrom.TRIGGER and counting.tells(300_000) == "300.0 ms"
    assert "No meeting is predicted" in counting.says and counting.convention.light_from is LightFrom.MEETING


def test_marks_are_what_stays_while_a_hand_moves():
    for_flash = marks_of(START, TWO.course.events, frozenset({FIRST_FLASH}))
    said = [mark.says for mark in for_flash]
    assert "touchdown, drop 1" in said and "drop 2 closes" in said and "the flash" not in said
    assert [mark.at_us for mark in for_flash] == sorted(mark.at_us for mark in for_flash)
    # What the second drop decides moves with it.
    for_second = [mark.says for mark in marks_of(START, TWO.course.events, frozenset({drop(1)}))]
    assert "touchdown, drop 1" in for_second and "the flash" in for_second
    assert not any("drop 2" in says for says in for_second)
    first = [mark.says for mark in marks_of(RACE, TWO.course.events, frozenset({drop(0)}))]
    assert not any("touchdown" in says for says in first)
