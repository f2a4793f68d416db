import math
from dataclasses import replace

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy import stats

from ondine.core.setup import Camera, FlashFiredBy, Release, Setup, Triggers
from ondine.core.timing.commands import Commands
from ondine.core.timing.latency import commands_for, hit_share, latency, light_path, sheet_jitter_s, shutter_path
from ondine.core.timing.sequence import CameraTimes, Pulse, Sequence
from ondine.demo.scenario import TIDAL_MILL

PAIR = Sequence.with_one_flash((Pulse(0, 22_000), Pulse(95_000, 22_000)), 356_000)


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
    assert commands_for(with_triggers(), PAIR).flashes_us == (356_000,)


def test_in_the_cameras_school_the_command_goes_out_earlier():
    setup = with_triggers(exposure_s=1 / 200, flash_fired_by=FlashFiredBy.CAMERA, radio=True)
    found, commands = latency(setup, PAIR), commands_for(setup, PAIR)
    assert found.light_s == pytest.approx(0.356)
    assert commands.flashes_us is None
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
    assert says in latency(setup, PAIR.with_flash(0, flash_us)).problem


@given(st.floats(1e-4, 0.02), st.floats(1e-4, 0.02))
def test_the_share_of_sheets_is_that_of_the_normal_distribution(window, jitter):
    # Outside reference: scipy.stats.norm.
    expected = stats.norm.cdf(window / 2, scale=jitter) - stats.norm.cdf(-window / 2, scale=jitter)
    assert hit_share(window, jitter) == pytest.approx(expected, abs=1e-12)


def test_no_window_is_never_hit_and_no_jitter_always():
    assert hit_share(0, 0.001) == 0 and hit_share(0.004, 0) == 1
    assert sheet_jitter_s(Setup(), 0.0) == pytest.approx(Setup().triggers.valve_jitter_s * math.sqrt(2))


ONE = Sequence.with_one_flash((Pulse(0, 22_000),), 300_000)


@given(
    st.sampled_from(list(FlashFiredBy)), st.sampled_from([Release.WIRE, Release.INFRARED]), st.booleans(), st.booleans(),
    st.integers(100_000, 800_000),
)  # fmt: skip
def test_light_comes_when_it_is_wanted_whatever_the_path(school, release, mirror_up, radio, flash_us):
    triggers = Triggers(flash_fired_by=school, release=release, mirror_up=mirror_up, radio=radio)
    setup = replace(TIDAL_MILL, triggers=triggers, camera=replace(TIDAL_MILL.camera, exposure_s=0.6))
    found = latency(setup, ONE.with_flash(0, flash_us))
    assume(found.light.lag_s < flash_us / 1e6)
    assert found.light_s == pytest.approx(flash_us / 1e6)
    commands = commands_for(setup, ONE.with_flash(0, flash_us))
    assert isinstance(commands, Commands) and commands.shutter_us >= 0
    sent = commands.shutter_us if school is FlashFiredBy.CAMERA else commands.flashes_us[0]
    assert sent + found.light.lag_s * 1e6 == pytest.approx(flash_us, abs=1)
    if not found.problem:
        assert found.open_from_s <= found.light_s <= found.open_until_s


@given(st.floats(0.0005, 0.01), st.floats(0.0001, 0.01), st.floats(1.1, 5))
def test_more_jitter_hits_fewer_sheets_and_a_longer_window_more(window, jitter, factor):
    assert hit_share(window, jitter) >= hit_share(window, jitter * factor)
    assert hit_share(window * factor, jitter) >= hit_share(window, jitter)


def asked(**times: int) -> Sequence:
    return replace(PAIR, camera=CameraTimes(**times))


def test_a_mirror_that_is_sent_up_before_is_no_part_of_the_shutters_way():
    down = with_triggers(mirror_up=False)
    found, early = latency(down, PAIR), latency(down, asked(mirror_us=0))
    assert found.shutter.lag_s - early.shutter.lag_s == pytest.approx(down.triggers.mirror_lag_s)
    assert not early.problem and early.open_from_s == pytest.approx(found.open_from_s)
    assert commands_for(down, asked(mirror_us=7, half_press_us=3)).mirror_us == 7
    assert commands_for(down, asked(mirror_us=7, half_press_us=3)).half_press_us == 3


def test_the_shutter_opens_when_it_is_asked_to():
    setup = with_triggers()
    found = latency(setup, asked(opens_us=200_000))
    assert found.open_from_s == pytest.approx(0.2) and not found.problem
    told = commands_for(setup, asked(opens_us=200_000)).shutter_us
    assert told == pytest.approx(200_000 - found.shutter.lag_s * 1e6, abs=1)


@pytest.mark.parametrize(
    ("setup", "times", "says"),
    [
        (with_triggers(mirror_up=False), {"mirror_us": 40_000}, "mirror still moves"),
        (with_triggers(mirror_up=True), {"mirror_us": 0}, "locked up by hand"),
        (with_triggers(), {"half_press_us": 300_000}, "half pressed after"),
        (with_triggers(), {"opens_us": 360_000}, "opens 4 ms after the light"),
    ],
)
def test_what_the_camera_cannot_do_in_time_is_said(setup, times, says):
    found = latency(setup, asked(**times))
    assert says in found.problem and found.problems[0].camera


def test_each_flash_has_its_own_command_and_each_that_is_lost_is_named():
    two = PAIR.with_flash_added(700_000, 1)
    setup = with_triggers(radio=True)
    found = latency(setup, two)
    assert found.lights_s == pytest.approx((0.356, 0.7))
    assert commands_for(setup, two).flashes_us == tuple(round(1e6 * (t - found.light.lag_s)) for t in (0.356, 0.7))
    (problem,) = found.problems
    assert "shuts" in problem.says and "flash 2" in problem.says and problem.flashes == (1,)
    by_camera = with_triggers(exposure_s=1 / 100, flash_fired_by=FlashFiredBy.CAMERA)
    (problem,) = latency(by_camera, two).problems
    assert "once a picture" in problem.says and problem.flashes == (1,)
