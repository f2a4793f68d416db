"""What is taken over from the course of a moment before is what would have been computed anew."""

from dataclasses import fields, is_dataclass, replace

import numpy as np
from hypothesis import example, given
from hypothesis import strategies as st

from ondine.core.forecast.landmarks import landmarks_of
from ondine.core.forecast.prediction import Prediction
from ondine.core.timing.sequence import FlashPulse, Pulse, Sequence
from ondine.demo.scenario import MILL_RACE
from tests.calibrated import TAUGHT

THREE_VALVES = replace(
    MILL_RACE, valves=(*MILL_RACE.valves, replace(MILL_RACE.valves[1], name="Valve C", aside_m=0.042))
)
NEAR = replace(THREE_VALVES, valves=tuple(replace(v, aside_m=0.2 * v.aside_m) for v in THREE_VALVES.valves))
LIGHT = (FlashPulse(356_000), FlashPulse(364_000, 1))

ms = st.integers(0, 300).map(lambda n: 1000 * n)
pulses = st.builds(Pulse, ms, st.integers(10, 40).map(lambda n: 1000 * n), st.integers(0, 2))
trains = st.lists(pulses, min_size=1, max_size=8)


def plain(value):
    """Return a value in a form that compares, down to the last bit."""
    if isinstance(value, np.ndarray):
        return value.shape, value.tobytes()
    if is_dataclass(value):
        return {field.name: plain(getattr(value, field.name)) for field in fields(value)}
    if isinstance(value, list | tuple):
        return [plain(item) for item in value]
    return value


def all_of(shown):
    """Return all that is drawn and told of a prediction."""
    what, course = shown.forecast, shown.course
    drawn = course.falls, course.jets, course.columns, course.sheets, course.craters, course.meetings
    seen = [(at.shapes, at.outline, at.ghosts) for at in shown.flashes]
    return plain([what.falls, what.splashes, what.meetings, *drawn, course.events, seen])


@given(trains, st.lists(st.tuples(st.integers(0, 7), pulses), max_size=3), st.sampled_from([THREE_VALVES, NEAR]))
@example([Pulse(0, 20_000, v) for v in (0, 1, 2)], [(1, Pulse(4_000, 20_000, 1))], THREE_VALVES)
@example([Pulse(0, 20_000, v) for v in (0, 1, 2)], [(1, Pulse(4_000, 20_000, 2))], THREE_VALVES)
@example(
    [Pulse(0, 10_000), Pulse(0, 10_000), Pulse(28_000, 40_000), Pulse(35_000, 40_000, 1), Pulse(35_000, 40_000, 2)],
    [], NEAR,
)  # fmt: skip
def test_going_on_from_another_course_foresees_what_a_fresh_start_does(train, changes, setup):
    before = Prediction.of(setup, TAUGHT, Sequence(tuple(train), LIGHT))
    all_of(before)
    drops = list(train)
    for index, pulse in changes:
        drops[index % len(drops)] = pulse
    sequence = Sequence(tuple(drops), LIGHT)
    on, fresh = Prediction.of(setup, TAUGHT, sequence, before), Prediction.of(setup, TAUGHT, sequence)
    assert all_of(on) == all_of(fresh)
    assert on.course.landmarks == landmarks_of(fresh.course.events)


def test_what_other_landing_spots_do_is_kept_and_the_rest_is_not():
    drops = tuple(Pulse(95_000 * (n // 3) + 4_000 * (n % 3), 20_000, n % 3) for n in range(6))
    before = Prediction.of(THREE_VALVES, TAUGHT, Sequence(drops, LIGHT))
    falls = before.course.falls
    moved = Prediction.of(
        THREE_VALVES, TAUGHT, Sequence((replace(drops[0], start_us=2_000), *drops[1:]), LIGHT), before
    )
    assert moved.forecast.as_before == {1, 2, 4, 5}
    kept = [new is old for new, old in zip(moved.course.falls, falls, strict=True)]
    assert kept == [drop in moved.forecast.as_before for drop in range(6)]
    # One drop fewer at the end, one spot gone, another belief: what still holds is kept, nothing else.
    fewer = Prediction.of(THREE_VALVES, TAUGHT, Sequence(drops[:5], LIGHT), before)
    assert fewer.forecast.as_before == {0, 1, 3, 4}
    taught_else = replace(TAUGHT, lag_s=replace(TAUGHT.lag_s, mean=TAUGHT.lag_s.mean + 1e-3))
    other = Prediction.of(
        THREE_VALVES, taught_else, Sequence((replace(drops[0], start_us=2_000), *drops[1:]), LIGHT), before
    )
    assert other.forecast.as_before == frozenset()
    gone = Prediction.of(THREE_VALVES, TAUGHT, Sequence((drops[0], drops[3]), LIGHT), before)
    assert all_of(gone) == all_of(Prediction.of(THREE_VALVES, TAUGHT, gone.sequence))


def test_a_meeting_that_another_crater_now_disturbs_is_told_anew():
    """Valve B's drop lands beside valve A's pair: late it leaves their meeting alone, early nobody foresees it."""
    pair = Pulse(0, 22_000), Pulse(95_000, 22_000)
    late, early = (Sequence((*pair, Pulse(start, 22_000, 1)), LIGHT) for start in (900_000, 30_000))
    before = Prediction.of(NEAR, TAUGHT, late)
    told = before.course.meetings
    after = Prediction.of(NEAR, TAUGHT, early, before)
    assert after.forecast.as_before == {0, 1}
    assert after.course.meetings == Prediction.of(NEAR, TAUGHT, early).course.meetings != told
