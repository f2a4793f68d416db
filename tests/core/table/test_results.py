from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.forecast.whole import forecast
from ondine.core.setup import Setup
from ondine.core.setup.fields import put
from ondine.core.table.results import table_results
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import TIDAL_MILL
from tests.calibrated import TAUGHT

ONE = Sequence.with_one_flash((Pulse(0, 22_000),), 300_000)


@given(st.floats(0.15, 0.9), st.floats(0.01, 0.2))
def test_higher_falls_longer_and_hits_harder(height, more):
    def results(nozzle):
        return table_results(forecast(put(TIDAL_MILL, "valves.0.nozzle_height_m", nozzle), TAUGHT, ONE))

    low, high = results(height), results(height + more)
    assert high.fall_s.mean > low.fall_s.mean
    assert high.impact_m_s.mean > low.impact_m_s.mean and high.energy_j > low.energy_j
    assert high.spray_reach_m > low.spray_reach_m
    assert high.diameter_m.mean == pytest.approx(low.diameter_m.mean)
    # g·h is the most that a fall can give (energy bound).
    starts = float(forecast(TIDAL_MILL, TAUGHT, ONE).falls.start_m_s[0, 0])
    fallen = 9.80665 * (height + more) + starts**2 / 2
    assert high.impact_m_s.mean**2 / 2 <= fallen * 1.02


PAIR = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000)), 356_000)


def warnings(setup: Setup, sequence: Sequence = PAIR) -> str:
    return " ".join(says for _, says in table_results(forecast(setup, TAUGHT, sequence)).warnings)


def test_the_results_of_the_demo_table():
    results = table_results(forecast(TIDAL_MILL, TAUGHT, PAIR))
    # Common practice, no published source: a 20 ms pulse gives 40 to 50 µL and 4.4 to 4.6 mm.
    assert 40e-9 < results.volume_m3 < 55e-9 and 4.4e-3 < results.diameter_m.mean < 4.7e-3
    # fluids 1.3.1, integrate_drag_sphere: 30 cm from 0.3 m/s takes 220.6 ms, 45 cm 277 ms; ours falls 36.5 cm from 0.42.
    assert 0.220 < results.fall_s.mean < 0.260
    assert results.energy_j == pytest.approx(
        0.5 * TIDAL_MILL.mix.liquid().density_kg_m3 * results.volume_m3 * results.impact_m_s.mean**2
    )
    # Common practice, no published source: craters are not deeper than about 13 mm.
    assert results.crater_m.mean < 13e-3 < TIDAL_MILL.bowl.depth_m


def test_what_the_table_warns_of():
    shallow = replace(TIDAL_MILL, bowl=replace(TIDAL_MILL.bowl, depth_m=0.008))
    assert "reaches the floor" in warnings(shallow)
    low = replace(TIDAL_MILL, valves=(replace(TIDAL_MILL.valves[0], nozzle_height_m=0.03),))
    assert "too weakly for a jet" in warnings(low) and "nozzle hangs in the picture" in warnings(low)
    bare = replace(TIDAL_MILL, camera=replace(TIDAL_MILL.camera, front_guard=False, front_glass_m=0.1))
    assert "guard the front glass" in warnings(bare)
    assert "No drop falls" in warnings(replace(TIDAL_MILL, valves=(replace(TIDAL_MILL.valves[0], dead_time_s=0.030),)))
    assert "sharp: take f/" in warnings(TIDAL_MILL)


def test_a_drop_that_lands_before_it_has_let_go_is_told():
    low = put(TIDAL_MILL, "valves.0.nozzle_height_m", 0.02)
    large = Sequence.with_one_flash((Pulse(0, 45_000),), 100_000)
    assert "before it has let go of the nozzle" in warnings(low, large)
    assert "let go of the nozzle" not in warnings(TIDAL_MILL)


def test_drops_that_trap_bubbles_are_told():
    # Pumphrey & Elmore 1990 (from memory): small drops from a low nozzle; those of 22 ms from 36 cm are far outside.
    low = put(TIDAL_MILL, "valves.0.nozzle_height_m", 0.15)
    small = Sequence.with_one_flash((Pulse(0, 8_000),), 200_000)
    assert "trap a bubble" in warnings(low, small) and "trap a bubble" not in warnings(TIDAL_MILL)
