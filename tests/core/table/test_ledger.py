"""What has run through the valve, counted by hand."""

import pytest

from ondine.core.setup import Setup, Valve
from ondine.core.table.ledger import Ledger
from ondine.core.timing.sequence import Pulse, Sequence

RIG = Valve(flow_m3_s=2.5e-6, dead_time_s=3e-3)
TABLE = Setup(valves=(RIG, Valve(flow_m3_s=1e-6, dead_time_s=0.0)))


def test_a_shot_counts_its_openings_in_seconds_and_its_drops_in_cubic_metres():
    # Two openings of 23 and 13 ms, each 3 ms dead: 30 ms of flow, 75 µL.
    after = Ledger().after_shot(Sequence.with_one_flash((Pulse(0, 23_000), Pulse(95_000, 13_000)), 350_000), TABLE)
    assert after.open_s(0) == pytest.approx(0.030) and after.bowl_m3 == pytest.approx(75e-9) and after.bowl_drops == 2
    twice = after.after_shot(Sequence.with_one_flash((Pulse(0, 23_000),), 350_000), TABLE)
    assert twice.open_s(0) == pytest.approx(0.050) and twice.bowl_drops == 3


def test_a_pour_into_a_cup_leaves_the_bowl_alone_and_one_into_the_bowl_does_not():
    cup = Ledger().after_pour(43_000, 10, RIG, 0, into_bowl=False)
    assert cup.open_s(0) == pytest.approx(0.4) and (cup.bowl_drops, cup.bowl_m3) == (0, 0.0)
    bowl = Ledger().after_pour(43_000, 10, RIG, 0, into_bowl=True)
    assert bowl.opens_s == cup.opens_s and bowl.bowl_drops == 10 and bowl.bowl_m3 == pytest.approx(1e-6)


def test_an_opening_within_the_dead_time_lets_nothing_out():
    nothing = Ledger().after_pour(2_000, 5, RIG, 0, into_bowl=True)
    assert nothing.open_s(0) == 0 and nothing.bowl_m3 == 0 and nothing.bowl_drops == 5


def test_filling_and_changing_begin_their_own_count_anew():
    ledger = Ledger(7, 2e-6, (0.3, 0.1))
    assert ledger.refilled() == Ledger(7, 2e-6)
    assert ledger.bowl_changed() == Ledger(0, 0.0, (0.3, 0.1))
    assert Ledger.from_json(ledger.to_json()) == ledger
    # As it was written while there was one valve.
    assert Ledger.from_json('{"bowl_drops": 7, "bowl_m3": 2e-6, "open_s": 0.3}') == Ledger(7, 2e-6, (0.3,))


def test_each_valve_counts_for_itself():
    both = Sequence.with_one_flash((Pulse(0, 23_000), Pulse(0, 40_000, valve=1)), 350_000)
    after = Ledger().after_shot(both, TABLE)
    assert after.opens_s == pytest.approx((0.020, 0.040)) and after.bowl_m3 == pytest.approx(90e-9)
    assert after.open_s(2) == 0.0


@pytest.mark.parametrize("opens", ["[-1]", "[1e9]", '["x"]', "3"])
def test_what_no_ledger_can_have_been_is_refused(opens):
    with pytest.raises(ValueError, match="opens_s"):
        Ledger.from_json(f'{{"opens_s": {opens}}}')
