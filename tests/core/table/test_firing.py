import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.belief.priors import Belief
from ondine.core.forecast.whole import forecast
from ondine.core.physics.drop import drop_volume_m3
from ondine.core.physics.liquid import DROP_AGE_S
from ondine.core.setup import Setup, Valve
from ondine.core.setup.fields import put
from ondine.core.table.firing import DUTY_SPAN_S, ValveUse, held, least_gap_us, open_s, pour_problems, problems
from ondine.core.timing.limits import Outputs
from ondine.core.timing.sequence import CameraTimes, Pulse, Sequence
from ondine.demo.scenario import START, TIDAL_MILL
from tests.core.timing.sequences import sequences


def limited(**rig: object) -> Setup:
    return replace(TIDAL_MILL, valves=(replace(TIDAL_MILL.valves[0], **rig),))


def test_the_demos_shot_may_be_fired():
    assert problems(START, TIDAL_MILL) == ()


def test_the_rigs_limit_holds_whatever_the_sequence_was_made_with():
    long = Sequence.with_one_flash((Pulse(0, 150_000), Pulse(400_000, 22_000)), 600_000)
    assert problems(long, limited(max_open_us=150_000)) == ()
    (reason,) = problems(long, limited(max_open_us=30_000))
    assert "Drop 1 opens for 150 ms, over the valve's limit of 30 ms" in reason.says and reason.drops == (0,)


def test_a_table_that_cannot_stand_is_not_fired_at():
    (reason,) = problems(START, limited(nozzle_height_m=9.0))
    assert "Nozzle over the water" in reason.says


def test_the_valve_may_be_open_for_its_share_of_any_minute():
    setup = limited(max_duty=0.01)
    shot = Sequence.with_one_flash((Pulse(0, 200_000),), 400_000)
    use = ValveUse()
    for second in range(3):
        assert problems(shot, setup, {0: use}, second) == ()
        use = use.after(second, open_s(shot, 0))
    # 0.6 s of 60 are used up: the first of the runs has to be a minute old.
    (reason,) = problems(shot, setup, {0: use}, 3.0)
    assert "Let it rest for 57 s" in reason.says
    assert problems(shot, setup, {0: use, 1: ValveUse(((59.0, 17.9),))}, 60.0 + 1e-6) == ()


def test_a_shot_that_no_rest_allows_is_to_be_shortened():
    long = Sequence.with_one_flash((Pulse(0, 900_000),), 950_000)
    (reason,) = problems(long, limited(max_duty=0.01, max_open_us=900_000))
    assert "shorten the drops" in reason.says


@given(st.lists(st.tuples(st.floats(0, 30), st.floats(0.001, 5)), max_size=40), st.floats(0.01, 1.0))
def test_no_minute_ever_holds_more_than_the_share(runs, duty):
    rig, use, now, done = Valve(max_duty=duty), ValveUse(), 0.0, []
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
    found = pour_problems(open_us, pulses, period_us, Valve(), ValveUse(), 0.0)
    assert bool(found) == bool(says) and says in " ".join(found)


def test_a_pour_counts_with_what_was_open_before():
    used = ValveUse(((10.0, 17.5),))
    assert pour_problems(20_000, 10, 80_000, Valve(), used, 20.0) == ()
    assert "Let it rest for 50 s" in pour_problems(200_000, 10, 700_000, Valve(), used, 20.0)[0]


def test_each_valve_has_its_own_limits_and_its_own_rest():
    setup = limited()
    setup = replace(setup, valves=(setup.valves[0], replace(setup.valves[0], name="Valve B", max_open_us=30_000)))
    both = Sequence.with_one_flash((Pulse(0, 100_000), Pulse(0, 40_000, 1)), 400_000)
    (reason,) = problems(both, setup)
    assert "Drop 2 opens for 40 ms" in reason.says and reason.drops == (1,)
    worn = ValveUse(((0.0, 17.99),))
    (reason,) = problems(START, setup, {0: worn}, 1.0)
    assert reason.says.startswith("Valve A was open much") and problems(START, setup, {1: worn}, 1.0) == ()


def test_a_valve_or_an_output_that_is_not_there_is_said_where_it_is_needed():
    third = replace(START, drops=(*START.drops, Pulse(200_000, 20_000, 2)))
    (reason,) = problems(third, TIDAL_MILL)
    assert "Drop 3 falls from valve 3, and this table has one valve" in reason.says and reason.drops == (2,)
    four = replace(TIDAL_MILL, valves=(TIDAL_MILL.valves[0],) * 3)
    assert problems(third, four) == () == problems(third, four, outputs=Outputs(3, 1))
    (reason,) = problems(third, four, outputs=Outputs(2, 1))
    assert "needs valve 3; this controller drives 2" in reason.says and reason.drops == (2,)
    second = START.with_flash_added(400_000, 1)
    (reason,) = problems(second, TIDAL_MILL)
    assert "Flash 2 fires output 2, and no unit hangs on it" in reason.says and reason.flashes == (1,)
    lit = put(put(TIDAL_MILL, "light.units.1.slave", False), "light.units.1.output", 1)
    assert problems(second, lit) == ()
    (reason,) = problems(second, lit, outputs=Outputs(1, 1))
    assert "Flash 2 needs output 2" in reason.says and reason.flashes == (1,)


def test_a_unit_that_has_not_recycled_is_said_at_the_flash_that_stays_dark():
    twice = START.with_flash_added(START.first_flash_us + 5_000, 0)
    (reason,) = problems(twice, TIDAL_MILL)
    assert "Unit A and Unit B cannot light at flash 2: ready again only after 188 ms" in reason.says
    assert reason.flashes == (1,)
    later = START.with_flash_added(START.first_flash_us + 200_000, 0)
    assert problems(later, put(TIDAL_MILL, "camera.exposure_s", 1.0)) == ()


def test_a_shutter_that_is_shut_at_one_of_the_flashes_is_not_fired():
    late = replace(START, camera=CameraTimes(opens_us=START.first_flash_us + 10_000))
    (reason,) = problems(late, TIDAL_MILL)
    assert "opens 10 ms after the light" in reason.says and reason.camera and reason.flashes == (0,)


@given(sequences(), st.integers(0, 7), st.integers(1_000, 400_000))
def test_an_edit_is_held_at_the_limit_and_leaves_the_other_drops_alone(sequence, index, open_us):
    index %= len(sequence.drops)
    setup = Setup(valves=tuple(Valve(max_open_us=most) for most in (30_000, 60_000, 90_000, 120_000)))
    made = held(sequence.with_open(index, open_us), sequence, setup)
    for n, (pulse, before) in enumerate(zip(made.drops, sequence.drops, strict=True)):
        if n == index and pulse.open_us != before.open_us:
            assert pulse.open_us <= setup.valves[pulse.valve].max_open_us
        elif n != index:
            assert pulse.open_us == before.open_us


def test_the_least_gap_is_that_of_drops_whose_milk_has_not_come_to_their_skin():
    # One plan has one forecast: a fifth of the capillary time √(ρD³/σ) of the drop as it is foreseen.
    milky = replace(TIDAL_MILL, mix=replace(TIDAL_MILL.mix, milk_mass_fraction=0.2))
    what = forecast(milky, Belief(), Sequence(START.drops[:1], ()))
    fresh, volume = milky.mix.liquid().aged(DROP_AGE_S), drop_volume_m3(22e-3, 2.63e-6, 2.8e-3)
    assert what.falls.diameter_m[0, 0] ** 3 == pytest.approx(6 * volume / math.pi)
    reshapes_s = math.sqrt(fresh.density_kg_m3 * 6 * volume / math.pi / fresh.surface_tension_n_m)
    assert least_gap_us(START.drops[0], milky) == pytest.approx(0.2e6 * reshapes_s, abs=100)
