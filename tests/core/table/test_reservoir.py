"""A reservoir that empties through its orifice, against the tank equation integrated step by step."""

import math

import pytest
from scipy.integrate import solve_ivp

from ondine.core.setup import Setup, Valve
from ondine.core.table.ledger import Ledger
from ondine.core.table.reservoir import (
    REFILL_AT_SHARE,
    discharge_coefficient,
    flow_after_share,
    flowing_s,
    head_after_m,
    shots_until_refill,
)
from ondine.core.timing.sequence import Pulse, Sequence

RIG = Valve(head_m=0.12, reservoir_diameter_m=0.09, flow_m3_s=2.6e-6, dead_time_s=3e-3, orifice_diameter_m=1.8e-3)


@pytest.mark.parametrize("open_s", [1.0, 30.0, 200.0])
def test_the_head_sinks_as_the_tank_equation_integrates(open_s):
    # Outside: dh/dt = -(Q0/A)·√(h/h0), Torricelli in a straight-walled tank, by scipy.
    area = math.pi / 4 * 0.09**2
    solved = solve_ivp(
        lambda _, h: -(2.6e-6 / area) * math.sqrt(h[0] / 0.12), (0, open_s), [0.12], rtol=1e-10, atol=1e-14
    )
    assert head_after_m(RIG, open_s) == pytest.approx(float(solved.y[0, -1]), rel=1e-7)
    assert flow_after_share(RIG, open_s) == pytest.approx(math.sqrt(solved.y[0, -1] / 0.12), rel=1e-7)


def test_at_first_it_sinks_by_the_volume_over_the_area():
    # A second lets 2.6 mL out of a tank of 63.6 cm²: 0.409 mm.
    assert 0.12 - head_after_m(RIG, 1.0) == pytest.approx(2.6e-6 / (math.pi / 4 * 0.09**2), rel=5e-3)
    assert head_after_m(RIG, 1e5) == 0.0


def test_the_discharge_coefficient_is_the_flow_over_torricellis():
    # Worked: A = 2.545 mm², √(2·9.80665·0.12) = 1.5341 m/s, 3.904 mL/s ideal, 2.6 of it.
    assert discharge_coefficient(RIG) == pytest.approx(2.6 / 3.904, rel=1e-3)


def test_refill_when_a_drop_has_lost_its_share():
    per_shot = flowing_s(
        Setup(valves=(RIG,)), 0, Sequence.with_one_flash((Pulse(0, 23_000), Pulse(95_000, 23_000)), 350_000)
    )
    assert per_shot == pytest.approx(0.040)
    shots = shots_until_refill(RIG, per_shot)
    assert flow_after_share(RIG, shots * per_shot) >= 1 - REFILL_AT_SHARE - 1e-3
    assert flow_after_share(RIG, (shots + 2) * per_shot) < 1 - REFILL_AT_SHARE
    assert shots_until_refill(RIG, per_shot, 10 * per_shot) == shots - 10
    assert shots_until_refill(RIG, per_shot, 1e6) == 0


PAIR = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000)), 356_000)


def test_the_head_falls_as_torricelli_says_and_the_ledger_counts():
    rig = Valve()
    # Outside reference: the tank equation integrated step by step.
    area, head, steps = 3.14159265358979 / 4 * rig.reservoir_diameter_m**2, rig.head_m, 20_000
    for _ in range(steps):
        head -= rig.flow_m3_s * (head / rig.head_m) ** 0.5 / area * (60.0 / steps)
    assert head_after_m(rig, 60.0) == pytest.approx(head, rel=1e-4)
    per_shot = flowing_s(Setup(), 0, PAIR)
    shots = shots_until_refill(rig, per_shot)
    assert (
        1 - flow_after_share(rig, per_shot * shots) <= 0.03 < 1 - flow_after_share(rig, per_shot * (shots + 1)) + 1e-3
    )
    ledger = Ledger()
    for _ in range(shots):
        ledger = ledger.after_shot(PAIR, Setup())
    assert shots_until_refill(rig, per_shot, ledger.open_s(0)) == 0
    assert ledger.bowl_drops == 2 * shots and ledger.bowl_changed().bowl_drops == 0
    assert ledger.refilled().open_s(0) == 0 and ledger.refilled().bowl_drops == 2 * shots
    assert ledger.after_pour(20_000, 10, rig, 0, into_bowl=False).bowl_drops == 2 * shots
    assert ledger.after_pour(20_000, 1, rig, 0, into_bowl=True).bowl_drops == 2 * shots + 1
    assert Ledger.from_json(ledger.to_json()) == ledger
