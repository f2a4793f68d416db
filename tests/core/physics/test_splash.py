"""Crater, crown and jet against outside packages and the facts of the trade."""

import fluids.core as outside
import numpy as np
import pytest

from ondine.core.physics.liquid import Liquid, glycerine_water
from ondine.core.physics.splash import (
    bead_delay_s,
    crater_clock_s,
    crater_depth_m,
    crater_radius_m,
    froude,
    jet_height_m,
    jet_rise_s,
    jet_speed_m_s,
    jet_top_m,
    makes_crown,
    makes_jet,
    ohnesorge,
    reynolds,
    weber,
)

WATER = Liquid(998.2, 1.0016e-3, 0.07274)


def test_dimensionless_numbers_against_fluids():
    d, v = 4e-3, 2.379
    assert weber(d, v, WATER) == pytest.approx(outside.Weber(V=v, L=d, rho=998.2, sigma=0.07274), rel=1e-9)
    assert reynolds(d, v, WATER) == pytest.approx(outside.Reynolds(V=v, D=d, rho=998.2, mu=1.0016e-3), rel=1e-9)
    assert froude(d, v) == pytest.approx(outside.Froude(V=v, L=d, squared=True), rel=1e-9)
    assert ohnesorge(d, WATER) == pytest.approx(
        outside.Ohnesorge(L=d, rho=998.2, mu=1.0016e-3, sigma=0.07274), rel=1e-9
    )


@pytest.mark.parametrize(("mm", "height_m", "crater_mm"), [(5.8, 0.45, 13), (4.5, 0.35, 10)])
def test_crater_depth_fits_practice(mm, height_m, crater_mm):
    # Common practice, no published source: not deeper than about half an inch.
    speed = np.sqrt(2 * 9.80665 * height_m)
    assert crater_radius_m(mm / 1e3, speed, 0.5) * 1e3 == pytest.approx(crater_mm, abs=0.8)


def test_crater_stays_under_its_energy_bound():
    # Engel 1967, Pumphrey & Elmore 1990 (from memory): all energy gives R/D = (Fr/3)^(1/4); measured is lower.
    bound = (outside.Froude(V=2.379, L=4e-3, squared=True) / 3) ** 0.25
    ours = float(crater_radius_m(4e-3, 2.379, 0.5)) / 4e-3
    assert 0.6 * bound < ours < bound


def test_crater_opens_and_fills():
    crater = 0.01
    delay = 1.5 * float(crater_clock_s(crater))
    depth = crater_depth_m(np.linspace(0, delay, 200), crater, delay)
    assert depth[0] == 0 and depth[-1] == pytest.approx(0, abs=1e-9)
    assert depth.max() == pytest.approx(crater, rel=1e-3)


def test_crater_clock_of_practice_craters():
    assert crater_clock_s(np.array([0.010, 0.013])) * 1e3 == pytest.approx([32, 36.4], abs=0.5)


@pytest.mark.parametrize("factor", [1.0, 1.3, 2.5])
def test_a_jet_rises_to_its_top_and_sinks_in_the_same_time(factor):
    # With factor 1 the tip is a stone thrown upwards: v²/2g, and v/g to get there.
    speed, slows = float(jet_speed_m_s(0.010, 2.7, WATER)), factor * 9.80665
    rise, top = float(jet_rise_s(speed, slows)), float(jet_top_m(speed, slows))
    assert (rise, top) == pytest.approx((speed / slows, speed**2 / 2 / slows))
    ages = np.linspace(0, 2 * rise, 1001)
    heights = jet_height_m(ages, speed, slows)
    assert heights.max() == pytest.approx(top, rel=1e-6) and ages[np.argmax(heights)] == pytest.approx(rise)
    assert heights[-1] == pytest.approx(0, abs=1e-9) and jet_height_m(3 * rise, speed, slows) == 0
    assert 0.01 < top < 0.06


def test_glycerine_lowers_the_jet():
    speeds = [float(jet_speed_m_s(0.010, 2.7, glycerine_water(c, 20.0))) for c in (0.0, 0.3, 0.6)]
    assert speeds[0] > speeds[1] > speeds[2]


def test_a_weak_impact_makes_neither_crown_nor_jet():
    assert not makes_jet(2e-3, 0.8, WATER)
    assert not makes_crown(4e-3, 1.0, WATER)
    assert makes_jet(4.5e-3, 2.6, WATER) and makes_crown(4.5e-3, 2.6, WATER)


def test_thicker_tips_let_go_later():
    assert bead_delay_s(0.013, WATER) > bead_delay_s(0.008, WATER) > 0
