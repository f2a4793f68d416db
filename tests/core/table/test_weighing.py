import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import curve_fit

from ondine.core.belief.priors import Belief
from ondine.core.setup import Setup
from ondine.core.table.weighing import Weighing, WeighingError, flow_from, with_flow

WATER = 998.2


def weighed(flow_m3_s: float, dead_s: float, opens_ms: list[float], pulses: int = 50, off=()) -> list[Weighing]:
    made = []
    for i, ms in enumerate(opens_ms):
        grams = flow_m3_s * (ms / 1e3 - dead_s) * pulses * WATER * 1e3
        made.append(Weighing(round(ms * 1e3), pulses, grams + (off[i] if i < len(off) else 0.0)))
    return made


def test_the_fit_is_that_of_numpy_and_scipy():
    rng = np.random.default_rng(4)
    weighings = [
        Weighing(w.open_us, n, w.grams * n / 50 + rng.normal(0, 0.02), 0.02)
        for w, n in zip(weighed(2.6e-6, 3e-3, [12, 20, 28, 40, 55]), (60, 40, 50, 30, 20), strict=True)
    ]
    found = flow_from(weighings, WATER)
    x = np.array([w.open_us / 1e6 for w in weighings])
    per_pulse = np.array([w.pulses * WATER * 1e3 for w in weighings])
    y, error = np.array([w.grams for w in weighings]) / per_pulse, 0.02 / per_pulse
    # Outside reference: numpy.polyfit and scipy.optimize.curve_fit with known errors (scaled against their tolerances).
    (slope, offset), cov = np.polyfit(x, y * 1e9, 1, w=1e-9 / error, cov="unscaled")
    assert found.flow_m3_s == pytest.approx(slope / 1e9, rel=1e-9)
    assert found.flow_sd_m3_s == pytest.approx(np.sqrt(cov[0, 0]) / 1e9, rel=1e-9)
    assert found.dead_time_s == pytest.approx(-offset / slope, rel=1e-9)
    (flow, _), spread = curve_fit(
        lambda t, q, d: q * (t - d), x, y * 1e9, p0=(2e3, 2e-3), sigma=error * 1e9, absolute_sigma=True
    )
    assert found.flow_m3_s == pytest.approx(flow / 1e9, rel=1e-6)
    assert found.dead_time_sd_s == pytest.approx(np.sqrt(spread[1, 1]), rel=1e-3)
    assert found.flow_sd_m3_s == pytest.approx(np.sqrt(spread[0, 0]) / 1e9, rel=1e-3)


@given(st.floats(0.5e-6, 8e-6), st.floats(0.5e-3, 6e-3))
def test_two_exact_weighings_give_back_what_made_them(flow, dead):
    found = flow_from(weighed(flow, dead, [15, 40]), WATER)
    assert found.flow_m3_s == pytest.approx(flow, rel=1e-9)
    assert found.dead_time_s == pytest.approx(dead, rel=1e-6)
    volume, spread = found.volume_m3(22_000)
    assert volume == pytest.approx(flow * (0.022 - dead), rel=1e-9) and spread > 0


def test_errors_are_those_of_many_repeated_weighings():
    rng = np.random.default_rng(7)
    found = []
    for _ in range(400):
        off = rng.normal(0, 0.02, 3)
        found.append(flow_from(weighed(2.6e-6, 3e-3, [15, 25, 40], off=off), WATER))
    flows, deads = [f.flow_m3_s for f in found], [f.dead_time_s for f in found]
    volumes = [f.volume_m3(22_000)[0] for f in found]
    assert np.std(flows) == pytest.approx(found[0].flow_sd_m3_s, rel=0.12)
    assert np.std(deads) == pytest.approx(found[0].dead_time_sd_s, rel=0.12)
    assert np.std(volumes) == pytest.approx(found[0].volume_m3(22_000)[1], rel=0.12)
    diameters = [f.diameter_m(22_000)[0] for f in found]
    assert np.std(diameters) == pytest.approx(found[0].diameter_m(22_000)[1], rel=0.12)


def test_weighings_that_contradict_each_other_are_named():
    odd = flow_from(weighed(2.6e-6, 3e-3, [15, 25, 40], off=(0.0, 0.4, 0.0)), WATER)
    assert "off the line" in odd.warning and "Weigh it again" in odd.warning
    twice = flow_from([*weighed(2.6e-6, 3e-3, [15, 40]), *weighed(2.6e-6, 3e-3, [15], off=(0.3,))], WATER)
    assert "Weighings 1 and 3" in twice.warning
    early = flow_from(weighed(2.6e-6, -4e-3, [15, 25, 40]), WATER)
    assert "which no valve has" in early.warning
    assert flow_from(weighed(2.6e-6, 3e-3, [15, 25, 40]), WATER).warning == ""


@pytest.mark.parametrize(
    ("weighings", "says"),
    [
        ([], "two open times"),
        (weighed(2.6e-6, 3e-3, [15, 15]), "two open times"),
        ([Weighing(15_000, 50, 2.0), Weighing(40_000, 50, 1.0)], "no more liquid"),
        ([Weighing(15_000, 0, 2.0), Weighing(40_000, 50, 1.0)], "at least one pulse"),
    ],
)
def test_weighings_that_give_no_flow_say_why(weighings, says):
    with pytest.raises(WeighingError, match=says):
        flow_from(weighings, WATER)


def test_a_weighed_flow_narrows_what_is_believed():
    found = flow_from(weighed(2.6e-6, 3e-3, [15, 40]), WATER)
    setup, belief = with_flow(Setup(), Belief(), found)
    assert setup.valves[0].flow_m3_s == found.flow_m3_s and setup.valves[0].flow_sd_m3_s == found.flow_sd_m3_s
    assert belief.flow_factor.sd < Belief().flow_factor.sd


def warned(*grams: float, opens_ms: tuple[float, ...]) -> str:
    rows = [Weighing(round(ms * 1e3), 50, g, 0.02) for ms, g in zip(opens_ms, grams, strict=True)]
    return flow_from(rows, WATER).warning


@pytest.mark.parametrize(("apart_g", "says"), [(0.0, False), (0.06, False), (0.10, True)])
def test_the_same_open_time_weighed_twice_may_differ_by_three_errors(apart_g, says):
    # Two weighings with 0.02 g each: their difference has 0.028 g, three times that is 0.085 g.
    short, long = (2.6e-6 * (ms / 1e3 - 3e-3) * 50 * WATER * 1e3 for ms in (15, 40))
    found = warned(short, short + apart_g, long, opens_ms=(15, 15, 40))
    assert ("Weighings 1 and 2, both of 15 ms" in found) is says


@pytest.mark.parametrize(("off_g", "says"), [(0.05, False), (0.20, True)])
def test_a_weighing_off_the_line_is_named(off_g, says):
    exact = [2.6e-6 * (ms / 1e3 - 3e-3) * 50 * WATER * 1e3 for ms in (15, 25, 40)]
    exact[1] += off_g
    assert ("Weighing 2 (25 ms) lies" in warned(*exact, opens_ms=(15, 25, 40))) is says


def test_no_valve_has_a_dead_time_below_nought():
    grams = [2.6e-6 * (ms / 1e3 + 2e-3) * 50 * WATER * 1e3 for ms in (15, 40)]
    assert "a dead time of -2.0 ms, which no valve has" in warned(*grams, opens_ms=(15, 40))
    grams = [2.6e-6 * (ms / 1e3 + 0.05e-3) * 50 * WATER * 1e3 for ms in (15, 40)]
    assert warned(*grams, opens_ms=(15, 40)) == ""
