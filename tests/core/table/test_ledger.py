"""What has run through the valve, counted by hand."""

import math

import pytest

from ondine.core.setup import Rig
from ondine.core.table.ledger import Ledger
from ondine.core.timing.sequence import Pulse, Sequence

RIG = Rig(flow_m3_s=2.5e-6, dead_time_s=3e-3)


def test_a_shot_counts_its_openings_in_seconds_and_its_drops_in_cubic_metres():
    # Two openings of 23 and 13 ms, each 3 ms dead: 30 ms of flow, 75 µL.
    after = Ledger().after_shot(Sequence((Pulse(0, 23_000), Pulse(95_000, 13_000)), 350_000), RIG)
    assert after.open_s == pytest.approx(0.030) and after.bowl_m3 == pytest.approx(75e-9) and after.bowl_drops == 2
    twice = after.after_shot(Sequence((Pulse(0, 23_000),), 350_000), RIG)
    assert twice.open_s == pytest.approx(0.050) and twice.bowl_drops == 3


def test_a_pour_into_a_cup_leaves_the_bowl_alone_and_one_into_the_bowl_does_not():
    cup = Ledger().after_pour(43_000, 10, RIG, into_bowl=False)
    assert cup.open_s == pytest.approx(0.4) and (cup.bowl_drops, cup.bowl_m3) == (0, 0.0)
    bowl = Ledger().after_pour(43_000, 10, RIG, into_bowl=True)
    assert bowl.open_s == cup.open_s and bowl.bowl_drops == 10 and bowl.bowl_m3 == pytest.approx(1e-6)


def test_an_opening_within_the_dead_time_lets_nothing_out():
    nothing = Ledger().after_pour(2_000, 5, RIG, into_bowl=True)
    assert nothing.open_s == 0 and nothing.bowl_m3 == 0 and nothing.bowl_drops == 5


def test_filling_and_changing_begin_their_own_count_anew():
    ledger = Ledger(7, 2e-6, 0.3)
    assert ledger.refilled() == Ledger(7, 2e-6, 0.0)
    assert ledger.bowl_changed() == Ledger(0, 0.0, 0.3)
    assert Ledger.from_json(ledger.to_json()) == ledger and not math.isnan(ledger.open_s)
