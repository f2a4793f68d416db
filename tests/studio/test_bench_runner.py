"""No valve opens longer than its limit, whatever was fired and however; and the bench is free again whatever happens."""

import threading
import time
from dataclasses import replace
from datetime import timedelta

import pytest

from ondine.bench.protocol import Pour
from ondine.core.setup import Box, Setup, Valve
from ondine.core.timing.limits import SequenceError
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.logbook.records import ShotState
from ondine.studio.events import BenchChanged, BenchState, Purpose, SeriesGoesOn, Trouble

LONG = Sequence.with_one_flash((Pulse(0, 150_000), Pulse(300_000, 20_000)), 600_000)


def limited(**rig: object) -> Setup:
    return Setup(valves=(replace(Valve(), **rig),))


def test_a_limit_that_was_lowered_holds_for_what_is_in_hand(table):
    table.studio.composer.use_sequence(LONG)
    table.studio.composer.use_setup(limited(max_open_us=30_000))
    with pytest.raises(SequenceError, match="over the valve's limit of 30 ms"):
        table.fire()
    assert table.controller.fired == [] and table.studio.bench.state is BenchState.READY
    table.studio.composer.use_setup(limited(max_open_us=150_000))
    assert table.fire()


def test_an_old_shots_sequence_is_held_to_todays_limit(table):
    table.studio.composer.use_sequence(LONG)
    table.fire()
    table.settle()
    table.studio.composer.use_setup(limited(max_open_us=30_000))
    table.studio.composer.use_sequence(table.newest().sequence)
    with pytest.raises(SequenceError, match="150 ms"):
        table.fire(count=5)
    assert len(table.controller.fired) == 1


def test_a_dials_rounding_does_not_pass_the_limit(table):
    table.studio.composer.use_setup(replace(limited(max_open_us=30_000), box=Box(in_use=True, step_us=50_000)))
    table.studio.composer.use_sequence(Sequence.with_one_flash((Pulse(0, 28_000),), 350_000))
    with pytest.raises(SequenceError, match="opens for 50 ms"):
        table.fire()
    assert table.studio.writer.logbook.shots.count() == 0


def test_the_valves_share_of_a_minute_holds_over_shots_series_and_pours(table, ticks):
    setup = limited(max_duty=0.01)
    table.studio.composer.use_setup(setup)
    table.studio.composer.use_sequence(Sequence.with_one_flash((Pulse(0, 200_000),), 400_000))
    table.fire()
    table.settle()
    # The pour has its own share; with the shot before it is too much.
    with pytest.raises(SequenceError, match="Let it rest for"):
        table.studio.bench.pour(Pour(100_000, 5, 10_000_000), Purpose.WEIGHING, setup)
    table.fire()
    table.settle()
    table.fire()
    table.settle()
    with pytest.raises(SequenceError, match="Let it rest for 60 s"):
        table.fire()
    assert len(table.controller.fired) == 3
    ticks.now += 61
    assert table.fire()


def test_a_series_waits_until_the_valve_has_rested(table, ticks):
    table.studio.composer.use_setup(limited(max_duty=0.01))
    table.studio.composer.use_sequence(Sequence.with_one_flash((Pulse(0, 200_000),), 400_000))
    fired_s: list[float] = []
    table.controller.before = lambda: fired_s.append(ticks.now)
    table.fire(count=7)
    table.settle()
    assert len(fired_s) == 7
    for at in fired_s:
        assert sum(0.2 for other in fired_s if at - 60 < other <= at) <= 0.6 + 1e-9


def test_what_came_before_a_pour_failed_counts(table):
    setup = limited(max_duty=0.01)

    def fails(*_: object) -> None:
        table.controller.refusal = ""

    def pour(poured, setup_, goes_on):
        goes_on(3)
        from ondine.bench.protocol import BenchError

        raise BenchError("The reservoir is empty.")

    table.controller.pour = pour
    table.studio.bench.pour(Pour(100_000, 3, 10_000_000), Purpose.TEST_DROP, setup)
    table.settle()
    assert table.studio.bench.ledger.bowl_drops == 3 and table.studio.bench.valves.use[0].runs[0][1] == pytest.approx(
        0.3
    )


@pytest.mark.parametrize("jump", [timedelta(hours=-1), timedelta(hours=1)])
def test_a_clock_that_is_set_makes_nobody_wait(table, ticks, jump):
    """Daylight saving, a clock set by the network: only the flash's own seconds count."""
    table.fire()
    table.settle()
    table.controller.clock.now += jump
    slept_before = ticks.slept_s
    table.fire()
    table.settle()
    assert len(table.controller.fired) == 2
    # The flash is waited for as ever: no longer, and no shorter.
    assert 0.03 < ticks.slept_s - slept_before < 1.0


def test_refilling_is_heard_by_the_controller_in_the_benchs_thread_after_the_shot(table):
    heard: list[str] = []
    gate = threading.Event()
    table.controller.before = lambda: (gate.wait(5), heard.append("shot"))
    table.controller.refilled = lambda: heard.append(threading.current_thread().name)
    table.fire()
    table.studio.bench.refilled()
    assert heard == []
    gate.set()
    table.settle()
    assert heard[0] == "shot" and heard[1].startswith("bench")
    assert table.studio.bench.ledger.open_s(0) == 0.0


def test_a_device_that_does_what_nobody_expected_is_told_and_the_shot_is_not_lost(table):
    def breaks() -> None:
        raise ZeroDivisionError("a driver's fault")

    table.controller.before = breaks
    table.fire()
    table.settle()
    (trouble,) = table.heard(Trouble)
    assert "at the bench" in trouble.message and "ZeroDivisionError" in trouble.details
    assert table.newest().state is ShotState.UNKNOWN and "the bench failed" in table.newest().report
    # Nobody knows whether the valve opened: it counts as if it had.
    assert table.studio.bench.valves.use[0].runs[-1][1] == pytest.approx(0.044)
    assert table.studio.bench.state is BenchState.READY
    table.controller.before = lambda: None
    assert table.fire()
    table.settle()
    assert table.newest().state is ShotState.FIRED


def test_a_series_that_breaks_ends_and_leaves_the_bench_free(table):
    def breaks() -> None:
        raise ZeroDivisionError

    table.controller.before = breaks
    table.fire(count=3)
    table.settle()
    assert table.heard(SeriesGoesOn)[-1] == SeriesGoesOn(0, 0)
    assert table.heard(BenchChanged)[-1].state is BenchState.READY
    assert len(table.studio.writer.logbook.shots.newest(1000)) == 1


def test_closing_ends_a_wait_and_fires_nothing_more(table, tmp_path):
    table.studio.bench._sleep = table.studio.bench._stop_series.wait
    table.fire(count=5, interval_s=60)
    table.heard(BenchChanged, 2)
    began = time.monotonic()
    table.studio.close()
    assert time.monotonic() - began < 5 and len(table.controller.fired) == 1
    table.studio = table.open()


def test_plans_are_fired_in_their_order_and_all_are_checked_before_the_first(table):
    plan = table.studio.composer.plan
    plans = [replace(plan, sequence=plan.sequence.with_flash(0, 300_000 + 1000 * n)) for n in range(4)]
    assert table.studio.bench.fire_all(plans)
    table.settle()
    shots = table.studio.writer.logbook.shots.newest(9)[::-1]
    assert [shot.sequence.first_flash_us for shot in shots] == [300_000, 301_000, 302_000, 303_000]
    bad = replace(plan, sequence=replace(plan.sequence, drops=(Pulse(0, 4_000_000),)))
    with pytest.raises(SequenceError):
        table.studio.bench.fire_all([plan, bad])
    table.settle()
    assert table.studio.writer.logbook.shots.count() == 4 and table.studio.bench.state is BenchState.READY
