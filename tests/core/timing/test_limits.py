"""Any sequence can be; which none can fire, and where the fault lies."""

import pytest
from hypothesis import given

from ondine.core.timing.limits import flash_name, timing_problems
from ondine.core.timing.sequence import MAX_TIME_US, CameraTimes, FlashPulse, Pulse, Sequence
from tests.core.timing.sequences import sequences

DROP = (Pulse(0, 20_000),)
NINE = tuple(Pulse(i * 100_000, 1_000) for i in range(9))


@pytest.mark.parametrize(
    ("drops", "flash", "says", "where"),
    [
        ((), 0, "1 to 8 drops", ((), ())),
        (NINE, 0, "1 to 8 drops, not 9", ((), ())),
        ((Pulse(-5_000, 20_000),), 0, "Drop 1 is at -5 ms", ((0,), ())),
        (DROP, -1, "The flash is at", ((), (0,))),
        (DROP, MAX_TIME_US + 1, "The flash is at", ((), (0,))),
        ((Pulse(0, 0),), 0, "at least 1 ms", ((0,), ())),
        ((Pulse(0, MAX_TIME_US + 1),), 0, "at most 5000 ms", ((0,), ())),
        ((Pulse(0, 30_000), Pulse(20_000, 20_000)), 0, "start it at 31 ms or later", ((0, 1), ())),
        ((Pulse(50_000, 30_000), Pulse(20_000, 35_000)), 0, "Drop 1 opens before drop 2 has closed", ((1, 0), ())),
    ],
)
def test_what_cannot_be_fired_says_why_what_to_do_and_where(drops, flash, says, where):
    (problem,) = timing_problems(Sequence.with_one_flash(drops, flash))
    assert says in problem.says and (problem.drops, problem.flashes) == where and not problem.camera


def test_all_problems_are_named_at_once():
    assert len(list(timing_problems(Sequence.with_one_flash((Pulse(-1, 500),), -1)))) == 3


def test_drops_of_two_valves_may_overlap():
    both = Sequence.with_one_flash((Pulse(0, 30_000), Pulse(10_000, 30_000, valve=1)), 300_000)
    assert list(timing_problems(both)) == []


@pytest.mark.parametrize("flashes", [(), tuple(FlashPulse(n * 10_000) for n in range(5))])
def test_no_flash_and_five_are_too_few_and_too_many(flashes):
    (problem,) = timing_problems(Sequence(DROP, flashes))
    assert f"1 to 4 flashes, not {len(flashes)}" in problem.says


@pytest.mark.parametrize(
    "camera", [CameraTimes(-1), CameraTimes(mirror_us=-1), CameraTimes(half_press_us=MAX_TIME_US + 1)]
)
def test_the_camera_is_asked_within_the_span(camera):
    (problem,) = timing_problems(Sequence(DROP, (FlashPulse(0),), camera))
    assert problem.camera and "give a time from 0 to 5000 ms" in problem.says


@given(sequences())
def test_what_the_strategy_makes_can_be_fired(sequence):
    assert list(timing_problems(sequence)) == []


def test_a_flash_has_a_number_where_there_are_several():
    one = Sequence(DROP, (FlashPulse(0),))
    assert flash_name(one, 0) == "The flash" and flash_name(one.with_flash_added(9, 1), 1) == "Flash 2"
