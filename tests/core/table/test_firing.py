import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.setup import Rig, Setup
from ondine.core.table.firing import DUTY_SPAN_S, ValveUse, held, open_s, pour_problems, problems
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import START, TIDAL_MILL
from tests.core.timing.sequences import sequences


def limited(**rig: object) -> Setup:
    return replace(TIDAL_MILL, rig=replace(TIDAL_MILL.rig, **rig))


def test_the_demos_shot_may_be_fired():
    assert problems(START, TIDAL_MILL) == ()


def test_the_rigs_limit_holds_whatever_the_sequence_was_made_with():
    long = Sequence((Pulse(0, 150_000), Pulse(400_000, 22_000)), 600_000)
    assert problems(long, limited(max_open_us=150_000)) == ()
    (reason,) = problems(long, limited(max_open_us=30_000))
    assert "Drop 1 opens for 150 ms, over the valve's limit of 30 ms" in reason


def test_a_table_that_cannot_stand_is_not_fired_at():
    (reason,) = problems(START, limited(nozzle_height_m=9.0))
    assert "Nozzle over the water" in reason


def test_the_valve_may_be_open_for_its_share_of_any_minute():
    setup = limited(max_duty=0.01)
    shot = Sequence((Pulse(0, 200_000),), 400_000)
    use = ValveUse()
    for second in range(3):
        assert problems(shot, setup, use, second) == ()
        use = use.after(second, open_s(shot))
    # 0.6 s of 60 are used up: the first of the runs has to be a minute old.
    (reason,) = problems(shot, setup, use, 3.0)
    assert "Let it rest for 57 s" in reason
    assert problems(shot, setup, use, 60.0 + 1e-6) == ()


def test_a_shot_that_no_rest_allows_is_to_be_shortened():
    assert (
        "shorten the drops"
        in problems(Sequence((Pulse(0, 900_000),), 0), limited(max_duty=0.01, max_open_us=900_000))[0]
    )


@given(st.lists(st.tuples(st.floats(0, 30), st.floats(0.001, 5)), max_size=40), st.floats(0.01, 1.0))
def test_no_minute_ever_holds_more_than_the_share(runs, duty):
    rig, use, now, done = Rig(max_duty=duty), ValveUse(), 0.0, []
    for pause, wanted in runs:
        now += pause
        rest = use.rest_needed_s(now, wanted, rig)
        if math.isinf(rest):
            assert wanted > duty * DUTY_SPAN_S
            continue
        now += rest
        use = use.after(now, wanted)
        done.append((now, wanted))
    for ended, _ in done:
        within = sum(length for at, length in done if ended - DUTY_SPAN_S + 1e-6 < at <= ended)
        assert within <= duty * DUTY_SPAN_S + 1e-6


@pytest.mark.parametrize(
    ("open_us", "pulses", "period_us", "says"),
    [
        (250_000, 1, 2_000_000, "over the valve's limit of 200 ms"),
        (50_000, 10, 100_000, "open 50% of the time"),
        (20_000, 10, 80_000, ""),
    ],
)
def test_pours_keep_the_limits(open_us, pulses, period_us, says):
    found = pour_problems(open_us, pulses, period_us, Setup(), ValveUse(), 0.0)
    assert bool(found) == bool(says) and says in " ".join(found)


def test_a_pour_counts_with_what_was_open_before():
    used = ValveUse(((10.0, 17.5),))
    assert pour_problems(20_000, 10, 80_000, Setup(), used, 20.0) == ()
    assert "Let it rest for 50 s" in pour_problems(200_000, 10, 700_000, Setup(), used, 20.0)[0]


@given(sequences(), st.integers(0, 3), st.integers(1_000, 400_000))
def test_an_edit_is_held_at_the_limit_and_leaves_the_other_drops_alone(sequence, index, open_us):
    rig, index = Rig(max_open_us=30_000), index % len(sequence.drops)
    made = held(sequence.with_open(index, open_us), sequence, rig)
    for n, (pulse, before) in enumerate(zip(made.drops, sequence.drops, strict=True)):
        if n == index and pulse.open_us != before.open_us:
            assert pulse.open_us <= rig.max_open_us
        elif n != index:
            assert pulse.open_us == before.open_us
