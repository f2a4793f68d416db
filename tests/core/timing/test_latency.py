import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from ondine.core.belief.priors import Belief
from ondine.core.setup import Camera, FlashFiredBy, Release, Setup, Triggers
from ondine.core.table.lag_series import LagError, lag_between, passing_us, with_lag
from ondine.core.timing.latency import commands_for, hit_share, latency, light_path, sheet_jitter_s, shutter_path
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import TIDAL_MILL

PAIR = Sequence((Pulse(0, 22_000), Pulse(95_000, 22_000)), 356_000)


def with_triggers(exposure_s: float = 0.5, **values: object) -> Setup:
    return Setup(triggers=Triggers(**values), camera=Camera(exposure_s=exposure_s))


def test_lags_add_and_jitters_add_in_squares():
    t = Triggers(wire_lag_s=0.002, wire_jitter_s=0.003, shutter_lag_s=0.040, shutter_jitter_s=0.004)
    assert shutter_path(t).lag_s == pytest.approx(0.042)
    assert shutter_path(t).jitter_s == pytest.approx(0.005)
    assert shutter_path(replace(t, mirror_up=False)).lag_s == pytest.approx(0.042 + t.mirror_lag_s)


def test_in_the_controllers_school_the_lag_is_gone():
    found = latency(with_triggers(), PAIR)
    assert found.light_s == pytest.approx(0.356) and found.light_sd_s == 0 and not found.problem
    assert found.open_from_s == pytest.approx(0.356 - 0.25)
    assert commands_for(with_triggers(), PAIR).flash_us == 356_000


def test_in_the_cameras_school_the_command_goes_out_earlier():
    setup = with_triggers(exposure_s=1 / 200, flash_fired_by=FlashFiredBy.CAMERA, radio=True)
    found, commands = latency(setup, PAIR), commands_for(setup, PAIR)
    assert found.light_s == pytest.approx(0.356)
    assert commands.flash_us is None
    assert commands.shutter_us == pytest.approx(356_000 - light_path(setup.triggers).lag_s * 1e6, abs=1)
    assert found.light_sd_s > 0 and not found.problem


@pytest.mark.parametrize(
    ("setup", "flash_us", "says"),
    [
        (
            with_triggers(exposure_s=1 / 500, flash_fired_by=FlashFiredBy.CAMERA),
            356_000,
            "shorter than the sync speed of 1/200",
        ),
        (with_triggers(exposure_s=1 / 100, flash_fired_by=FlashFiredBy.CAMERA), 20_000, "late"),
        (with_triggers(flash_fired_by=FlashFiredBy.CAMERA, release=Release.HAND), 356_000, "A hand cannot fire"),
        (with_triggers(exposure_s=0.1), 356_000, "shut again"),
        (with_triggers(shutter_lead_s=0.002), 356_000, "still be shut"),
        (with_triggers(exposure_s=0.3, release=Release.HAND), 356_000, "exposure ends before"),
    ],
)
def test_light_that_would_be_lost_is_said(setup, flash_us, says):
    assert says in latency(setup, PAIR.with_flash(flash_us)).problem


@given(st.floats(1e-4, 0.02), st.floats(1e-4, 0.02))
def test_the_share_of_sheets_is_that_of_the_normal_distribution(window, jitter):
    # Outside reference: scipy.stats.norm.
    expected = stats.norm.cdf(window / 2, scale=jitter) - stats.norm.cdf(-window / 2, scale=jitter)
    assert hit_share(window, jitter) == pytest.approx(expected, abs=1e-12)


def test_no_window_is_never_hit_and_no_jitter_always():
    assert hit_share(0, 0.001) == 0 and hit_share(0.004, 0) == 1
    assert sheet_jitter_s(Setup(), 0.0) == pytest.approx(Setup().triggers.valve_jitter_s * math.sqrt(2))


def heights(setup: Setup, pulse: Pulse, time_us: float, jitters: np.ndarray) -> list[float]:
    """Heights of a drop at jittered instants, found by bisection of what the core predicts for a height."""
    found = []
    for jitter in jitters:
        low, high = 1e-4, setup.rig.nozzle_height_m - 1e-4
        for _ in range(60):
            middle = (low + high) / 2
            if passing_us(setup, Belief(), pulse, middle) > time_us + jitter * 1e6:
                low = middle
            else:
                high = middle
        found.append((low + high) / 2)
    return found


def test_two_series_give_the_lag_between_two_paths_with_its_error():
    rng = np.random.default_rng(3)
    pulse = Pulse(0, 22_000)
    at = passing_us(TIDAL_MILL, Belief(), pulse, 0.028)
    one = heights(TIDAL_MILL, pulse, at, rng.normal(0, 0.4e-3, 6))
    other = heights(TIDAL_MILL, pulse, at, 3.0e-3 + rng.normal(0, 1.5e-3, 8))
    found = lag_between(one, other, TIDAL_MILL, Belief(), 22_000)
    assert found.lag_s == pytest.approx(3.0e-3, abs=3 * found.error_s)
    # Welch's standard error, as scipy gives it back from statistic and difference.
    fallen = [[passing_us(TIDAL_MILL, Belief(), pulse, h) for h in series] for series in (one, other)]
    welch = stats.ttest_ind(fallen[1], fallen[0], equal_var=False)
    assert found.error_s == pytest.approx(found.lag_s / welch.statistic, rel=1e-3)
    used = with_lag(TIDAL_MILL.triggers, found)
    assert used.shutter_lag_s == pytest.approx(TIDAL_MILL.triggers.shutter_lag_s + found.lag_s)
    assert used.shutter_jitter_s == pytest.approx(1.5e-3, rel=0.6)


@pytest.mark.parametrize(
    ("one", "other", "says"),
    [([0.01, 0.011], [0.01] * 3, "3 pictures or more"), ([0.01, 0.011, 0.5], [0.01] * 3, "under the nozzle")],
)
def test_series_that_give_no_lag_say_why(one, other, says):
    with pytest.raises(LagError, match=says):
        lag_between(one, other, TIDAL_MILL, Belief(), 22_000)
    with pytest.raises(LagError, match="No drop falls"):
        lag_between([0.01] * 3, [0.01] * 3, TIDAL_MILL, Belief(), 2_000)
