"""Each valve for itself: its use, its level, its rest."""

from dataclasses import replace

import pytest

from ondine.bench.protocol import Pour
from ondine.core.forecast.plan import Plan
from ondine.core.setup import Setup, Valve
from ondine.core.table.ledger import Ledger
from ondine.core.table.reservoir import head_after_m
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.studio.valve_book import ValveBook

TWO = Setup(valves=(Valve(max_duty=0.01), Valve(dead_time_s=0.0, head_m=0.05)))
LOW = Plan(Sequence.with_one_flash((Pulse(0, 20_000, 1), Pulse(90_000, 20_000, 1)), 300_000), TWO)
BOTH = replace(LOW, sequence=replace(LOW.sequence, drops=(Pulse(0, 100_000), Pulse(0, 20_000, 1))))


def book(now: list[float]) -> tuple[ValveBook, list[Ledger]]:
    kept: list[Ledger] = []
    return ValveBook(Ledger(), lambda: now[0], kept.append), kept


def test_a_shot_counts_for_the_valves_it_opens_and_for_no_other():
    made, kept = book([5.0])
    made.opened(LOW)
    made.fired(LOW)
    assert made.use_of(0).runs == () and made.use_of(1).runs == ((5.0, pytest.approx(0.04)),)
    assert kept == [made.ledger] and made.ledger.opens_s == pytest.approx((0.0, 0.04)) and made.ledger.bowl_drops == 2
    assert made.head_m(LOW) == head_after_m(TWO.valves[1], made.ledger.open_s(1)) < 0.05


def test_only_the_valves_of_a_plan_make_it_wait():
    now = [0.0]
    made, _ = book(now)
    for _ in range(6):
        made.opened(BOTH)
    # The first valve has used its share of the minute: a plan of the other one need not wait for it.
    now[0] = 10.0
    assert made.rest_s(BOTH, now[0]) == pytest.approx(50.0) and made.rest_s(LOW, now[0]) == 0.0


def test_a_pour_that_was_cut_short_counts_as_far_as_it_came():
    made, kept = book([1.0])
    made.poured(Pour(40_000, 30, 200_000, valve=1), 3, TWO, into_bowl=False)
    assert made.use_of(1).runs == ((1.0, pytest.approx(0.12)),)
    assert kept[-1].opens_s == pytest.approx((0.0, 0.12)) and kept[-1].bowl_drops == 0
