import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from ondine.core.constants import STANDARD_GRAVITY_M_S2 as G
from ondine.core.physics.liquid import Liquid
from ondine.core.physics.meeting import (
    SHEET_PEAK_SHARE,
    meeting_delay_s,
    sheet_edge_speed_m_s,
    sheet_full_shares,
    sheet_height_m,
    sheet_radius_m,
    sheet_time_s,
    widest_sheet_m,
)

WATER = Liquid(998.2, 1.0016e-3, 0.0727)


@given(st.floats(0.001, 0.12), st.floats(1.5, 4.0), st.floats(0.4, 1.4), st.floats(G, 3 * G))
def test_they_are_at_the_same_height_when_they_meet(lead, drop_speed, jet_speed, slows):
    x = float(meeting_delay_s(lead, drop_speed, jet_speed, slows))
    assume(np.isfinite(x))
    assert drop_speed * (lead - x) == pytest.approx(jet_speed * x - slows * x * x / 2, abs=1e-9)
    assert 0 <= x <= 2 * jet_speed / slows


def test_no_meeting_before_the_jet_or_after_it():
    assert np.isnan(meeting_delay_s(-0.001, 2.6, 0.8, G))
    assert np.isnan(meeting_delay_s(0.5, 2.6, 0.8, G))


def test_meeting_against_an_integrated_pair():
    # Drop at constant speed, tip under gravity: found by scipy's event search rather than by the quadratic.
    def apart(_t: float, state: np.ndarray) -> float:
        return float(state[0] - state[1])

    apart.terminal = True
    lead, drop_speed, jet_speed = 0.045, 2.6, 0.8
    solved = solve_ivp(
        lambda _t, s: [-drop_speed, s[2], -G],
        (0, 0.2),
        [drop_speed * lead, 0.0, jet_speed],
        events=apart,
        rtol=1e-10,
        atol=1e-12,
    )
    assert float(meeting_delay_s(lead, drop_speed, jet_speed, G)) == pytest.approx(
        float(solved.t_events[0][0]), abs=1e-7
    )


@pytest.mark.parametrize("number", [100.0, 500.0, 1000.0])
def test_sheet_law_against_its_own_equation_of_motion(number):
    # Villermaux & Bossa 2011 (from memory): rim fed by r/t, pulled by 2σ/ρh with h = d³/(12·u·t·r), integrated.
    u, scale = number**0.5, 6**-0.5
    c = 1 / (12 * u)
    solved = solve_ivp(
        lambda t, r: [r[0] / t - (2 * t * abs(r[0]) / c) ** 0.5],
        (1e-6 * scale, 0.95 * scale),
        [u * 1e-6 * scale],
        rtol=1e-10,
        atol=1e-12,
        max_step=scale / 1000,
    )
    diameter = 4.5e-3
    speed = np.sqrt(number * WATER.surface_tension_n_m / (WATER.density_kg_m3 * diameter))
    assert float(widest_sheet_m(diameter, speed, WATER)) / diameter == pytest.approx(solved.y[0].max(), rel=1e-3)


def test_sheet_is_widest_at_a_third_and_stands_still_there():
    life = float(sheet_time_s(4.5e-3, WATER))
    ages = np.linspace(0, life, 30001)
    widest = float(widest_sheet_m(4.5e-3, 3.5, WATER))
    radius = sheet_radius_m(ages, life, widest, 4.5e-3)
    assert ages[np.argmax(radius)] / life == pytest.approx(1 / 3, abs=1e-3)
    assert radius.max() == pytest.approx(widest, rel=1e-6)
    assert sheet_edge_speed_m_s(life / 3, life, widest) == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize(("mm", "life_ms", "full_ms", "wide_mm"), [(4.5, 14, 4.8, 15), (5.8, 21, 7, 22)])
def test_sheets_of_practice(mm, life_ms, full_ms, wide_mm):
    # Worked by hand for 3.5 m/s; the sheet is fully open for a few ms only (common practice).
    life = float(sheet_time_s(mm / 1e3, WATER)) * 1e3
    assert life == pytest.approx(life_ms, abs=0.8)
    assert life / 3 == pytest.approx(full_ms, abs=0.3)
    assert 2e3 * float(widest_sheet_m(mm / 1e3, 3.5, WATER)) == pytest.approx(wide_mm, rel=0.1)


def test_edge_speed_is_the_slope_of_the_radius():
    age = np.linspace(0.004, 0.012, 9)
    step = 1e-7
    slope = (
        (sheet_radius_m(age + step, 14e-3, 8e-3, 4.5e-3) - sheet_radius_m(age - step, 14e-3, 8e-3, 4.5e-3)) / 2 / step
    )
    assert sheet_edge_speed_m_s(age, 14e-3, 8e-3) == pytest.approx(slope, rel=1e-4, abs=1e-4)


@given(share=st.floats(0.05, 0.99))
def test_between_the_full_shares_the_sheet_is_as_wide(share):
    first, last = sheet_full_shares(share)
    assert first < SHEET_PEAK_SHARE < last
    assert sheet_radius_m(np.array([first, last]), 1.0, 1.0, 0.0) == pytest.approx(share, rel=1e-6)


def test_the_middle_of_the_sheet_is_thrown():
    # Thrown up at g·0.1 s it stands still after 0.1 s, 49.03 mm higher, and is back after 0.2 s (worked by hand).
    assert sheet_height_m(np.array([0, 0.1, 0.2]), 0.02, G * 0.1) == pytest.approx([0.02, 0.06903, 0.02], abs=1e-5)
