import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import least_squares

from ondine.core.light.flash import (
    DEFAULT_CURVES,
    FlashError,
    LightCurve,
    cautions_of,
    check_points,
    duration_of,
    fit_curve,
)
from ondine.core.setup import DurationPoint, Flash, FlashKind, Measure
from ondine.core.table.edit import EditError, edited
from ondine.demo.scenario import TIDAL_MILL

PRACTICE = (DurationPoint(1, 1 / 1000), DurationPoint(1 / 16, 1 / 11_000), DurationPoint(1 / 128, 1 / 41_600))


def test_the_curve_goes_through_the_durations_of_practice():
    # Common practice, no published source: one unit's manual: within 10 %, τ 1.33 ms, r 13 µs.
    curve = fit_curve(PRACTICE, FlashKind.CUT_OFF)
    for point in PRACTICE:
        assert curve.duration_s(point.power) == pytest.approx(point.duration_s, rel=0.10)
    assert curve.scale_s == pytest.approx(1.33e-3, rel=0.02) and curve.shape == pytest.approx(13e-6, rel=0.05)


def test_the_fit_is_that_of_scipy():
    # Outside reference: scipy.optimize.least_squares on the same residuals in the logarithm.
    def off(parameters):
        curve = LightCurve(FlashKind.CUT_OFF, *np.exp(parameters))
        return [math.log(float(curve.duration_s(p.power)) / p.duration_s) for p in PRACTICE]

    found = np.exp(least_squares(off, np.log([1e-3, 20e-6])).x)
    curve = fit_curve(PRACTICE, FlashKind.CUT_OFF)
    assert (curve.scale_s, curve.shape) == (pytest.approx(found[0], rel=1e-4), pytest.approx(found[1], rel=1e-3))


@given(st.floats(0.5e-3, 4e-3), st.floats(5e-6, 40e-6))
def test_a_curve_is_found_again_from_its_own_durations(decay, switching):
    true = LightCurve(FlashKind.CUT_OFF, decay, switching)
    points = [DurationPoint(p, float(true.duration_s(p))) for p in (1 / 128, 1 / 32, 1 / 8, 1 / 2)]
    found = fit_curve(points, FlashKind.CUT_OFF)
    assert found.scale_s == pytest.approx(decay, rel=1e-3) and found.shape == pytest.approx(switching, rel=1e-2)


def test_an_exponential_discharge_is_timed_as_iso_2827_says():
    # scipy.stats.expon (computed there once): t0.5 0.6931τ, t0.1 2.3026τ, ratio log2(10).
    full = LightCurve(FlashKind.CUT_OFF, 1e-3, 0.0)
    assert float(full.duration_s(1.0)) == pytest.approx(0.6931471806e-3)
    assert float(full.duration_s(1.0, Measure.TENTH)) == pytest.approx(2.302585093e-3)


def test_a_voltage_unit_keeps_or_lengthens_its_duration():
    points = [DurationPoint(1, 1 / 800), DurationPoint(1 / 4, 1 / 600), DurationPoint(1 / 16, 1 / 450)]
    curve = fit_curve(points, FlashKind.VOLTAGE)
    durations = curve.duration_s(np.array([1, 1 / 4, 1 / 16, 1 / 64]))
    assert np.all(np.diff(durations) > 0)
    for point in points:
        assert float(curve.duration_s(point.power)) == pytest.approx(point.duration_s, rel=0.05)


def test_the_table_wins_and_what_is_unknown_is_wide():
    known = Flash(durations=PRACTICE)
    for point in PRACTICE:
        assert duration_of(known, point.power).half_s == pytest.approx(point.duration_s, rel=1e-9)
    between, unknown = duration_of(known, 1 / 64), duration_of(Flash(), 1 / 64)
    assert 1 / 41_600 < between.half_s < 1 / 11_000
    assert unknown.high_s / unknown.low_s > 3 > 1.3 > between.high_s / between.low_s > 1
    for found in (between, unknown, duration_of(known, 1 / 512)):
        # As far up as down, by a factor: durations are known in the logarithm.
        assert found.low_s < found.half_s < found.high_s
        assert found.high_s / found.half_s == pytest.approx(found.half_s / found.low_s)
    tenth = tuple(DurationPoint(p.power, 2 * p.duration_s, Measure.TENTH) for p in PRACTICE)
    # A discharge that runs out has shone half as bright for less than a third of the time; one that is cut has not.
    assert duration_of(Flash(durations=tenth), 1.0).half_s < 0.7 * 2e-3
    automatic = duration_of(replace(known, automatic=True), 1 / 64)
    assert automatic.low_s == pytest.approx(1 / 41_600, rel=0.05) and automatic.high_s > 0.8e-3


@pytest.mark.parametrize(
    ("points", "says"),
    [
        ((DurationPoint(1, 1e-4), DurationPoint(1 / 16, 1e-3)), "fall with the power"),
        ((DurationPoint(1, 1e-3), DurationPoint(1 / 16, 1e-4, Measure.TENTH)), "mixes t0.5 and t0.1"),
        ((DurationPoint(1 / 512, 1e-5),), "outside the unit's powers"),
        ((DurationPoint(1, 1e-3), DurationPoint(1, 2e-3)), "stands there twice"),
    ],
)
def test_tables_that_no_unit_has(points, says):
    with pytest.raises(FlashError, match=says):
        check_points(points, FlashKind.CUT_OFF, 1 / 128)
    with pytest.raises(EditError, match=says):
        edited(TIDAL_MILL, "light.units.0.durations", points)
    check_points((DurationPoint(1, 1e-4), DurationPoint(1 / 16, 1e-3)), FlashKind.VOLTAGE, 1 / 128)


def test_a_power_outside_the_unit_is_refused():
    with pytest.raises(EditError, match="goes down to 1/128, not to 1/256"):
        edited(TIDAL_MILL, "light.units.0.power", 1 / 256)


def test_modes_that_spoil_the_picture_are_said():
    said = " ".join(cautions_of(Flash(high_speed_sync=True, automatic=True, kind=FlashKind.VOLTAGE)))
    for wanted in ("freezes nothing", "Automatic metering", "studio flash", "factor of two"):
        assert wanted in said
    assert any("bluer" in says for says in cautions_of(Flash(power=1 / 128, durations=PRACTICE)))
    assert cautions_of(Flash(durations=PRACTICE)) == ()


@pytest.mark.parametrize(("power", "per_second"), [(1, 1_000), (1 / 16, 11_000), (1 / 128, 41_600)])
def test_flash_durations_of_practice(power, per_second):
    # Common practice, no published source: one unit's manual.
    assert DEFAULT_CURVES[FlashKind.CUT_OFF].duration_s(power) == pytest.approx(1 / per_second, rel=0.10)


def test_less_power_is_shorter():
    durations = DEFAULT_CURVES[FlashKind.CUT_OFF].duration_s(np.array([1 / 256, 1 / 64, 1 / 16, 1 / 4, 1.0]))
    assert np.all(np.diff(durations) > 0)
