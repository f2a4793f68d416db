import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import least_squares

from ondine.core.light.ambient import (
    allowed_lux,
    ambient_stops,
    continuous_lux,
    longest_exposure_s,
    verdict,
)
from ondine.core.light.anchor import BLACK, BLOWN
from ondine.core.light.blur import Edge
from ondine.core.light.flash import (
    FlashError,
    LightCurve,
    cautions_of,
    check_points,
    duration_of,
    fit_curve,
)
from ondine.core.light.freeze import cleanest, freeze_table, print_target_px, sharpest, unlit, waiting
from ondine.core.light.recycle import burst_frames, burst_words, frames_until_hot, recycle_s
from ondine.core.light.tones import linear, rating_of, tones
from ondine.core.setup import Camera, DurationPoint, Flash, FlashKind, Measure
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
    assert unknown.high_s / unknown.low_s > 3 > 1.3 > between.high_s / between.low_s
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


# Freezing

EDGES = [Edge("drop 2", 2.9, 0.002, 0.02), Edge("jet tip", 0.6, 0.002, 0.02)]
CAMERA = Camera(sensor_width_m=24e-3, width_px=6000, magnification=0.25)


@pytest.mark.parametrize(("power", "pixels"), [(1 / 16, 16), (1 / 128, 4.4)])
def test_worked_blur(power, pixels):
    # Worked by hand: 2.9 m/s at 1:4 on pixels of 4 µm.
    (row,) = freeze_table(EDGES, Flash(durations=PRACTICE, power=power), [power], CAMERA, 200)
    assert row.worst_px == pytest.approx(pixels, rel=0.03) and row.blurs_px[1] < row.blurs_px[0]


def test_both_schools_choose():
    flash = Flash(durations=PRACTICE, power=1 / 16)
    rows = freeze_table(EDGES, flash, [1 / n for n in (1, 2, 4, 8, 16, 32, 64, 128)], CAMERA, 200)
    assert [row.iso for row in rows] == pytest.approx([12.5, 25, 50, 100, 200, 400, 800, 1600])
    assert sharpest(rows, 800).power == 1 / 64 and sharpest(rows, 10) is None
    assert cleanest(rows, 16.5).power == 1 / 16 and cleanest(rows, 0.5) is None
    assert unlit(EDGES, 1 / 4000, CAMERA) == pytest.approx(45, rel=0.02)
    # Two pixels of the print: one arc minute from 0.8 m on 0.6 m of 6000 px.
    assert print_target_px(Camera()) == pytest.approx(2.33, abs=0.01)


def test_waiting_for_the_jet_to_stand_buys_more_than_a_stop():
    def edges(time_us):
        return [Edge("jet tip", abs(1.5 - 9.8 * (time_us - 100_000) / 1e6 * 60), 0.002, 0.03)]

    found = waiting(edges, 100_000, Flash(durations=PRACTICE, power=1 / 16), CAMERA)
    assert found is not None and found.wait_us == 2_000 and found.later_px < found.stop_px
    assert "Wait 2 ms" in found.words
    falling = lambda time_us: [Edge("drop 1", 2.5, 0.002, 0.02)]  # noqa: E731
    assert waiting(falling, 100_000, Flash(durations=PRACTICE, power=1 / 16), CAMERA) is None


# Room, bursts, tones


def test_the_room_against_the_flash():
    assert ambient_stops(0.01, 0.5, 0.64, 0.5) == pytest.approx(-6)
    assert ambient_stops(0.01, 0.5, 0.64, 0.25) == pytest.approx(-7)
    assert longest_exposure_s(-7, 0.25) == pytest.approx(0.5)
    assert "Dark enough" in verdict(-6.5, 0.5) and "will ghost" in verdict(-3, 0.5)
    # ISO 2720, C 250: f/16, 1 s, ISO 100 is right at 640 lx; six stops less is 10 lx.
    assert allowed_lux(Camera(f_number=16, iso=100, exposure_s=1.0)) == pytest.approx(10.0)
    assert continuous_lux(8, 1 / 4000, 400) == pytest.approx(160_000)


@given(st.sampled_from([1, 1 / 4, 1 / 16, 1 / 64]), st.floats(0.02, 2.0))
def test_bursts_are_those_of_a_charge_counted_frame_by_frame(power, interval):
    flash = Flash(power=power, recycle_full_s=3.0)
    frames = burst_frames(flash, interval)
    charge, counted = 1.0, 0
    while counted < 3000 and charge >= power - 1e-9:
        charge = min(charge - power + interval / 3.0, 1.0)
        counted += 1
    if counted == 3000:
        assert math.isinf(frames) or frames >= 3000
    else:
        assert frames == pytest.approx(counted, abs=1)
    assert recycle_s(flash) == pytest.approx(3.0 * power)
    assert recycle_s(replace(flash, battery=0.5)) == pytest.approx(6.0 * power)


def test_heat_is_said():
    hot = Flash(power=1.0, recycle_full_s=1.0)
    assert frames_until_hot(hot, 1.0) < 30 and "hot" in burst_words(hot, 1.0)
    assert math.isinf(frames_until_hot(Flash(power=1 / 64), 2.0))


def test_the_tone_curve_is_srgb():
    # IEC 61966-2-1, through colour-science.
    import colour

    coded = np.linspace(0, 1, 33)
    assert np.allclose(linear(coded), colour.models.eotf_sRGB(coded), atol=1e-9)


def test_a_region_is_rated_in_stops():
    grey = np.full((40, 60, 3), 118, np.uint8)
    read = tones(grey)
    # sRGB 118 is 18 % grey.
    assert read.median == pytest.approx(0.18, rel=0.02) and read.histogram.sum() == pytest.approx(1)
    assert rating_of(read, 0.18).low == pytest.approx(0, abs=0.05)
    assert rating_of(read, 0.36).low == pytest.approx(-1, abs=0.05)
    assert rating_of(tones(np.zeros((4, 4, 3), np.uint8)), 0.25) == BLACK
    assert rating_of(tones(np.full((4, 4, 3), 255, np.uint8)), 0.25) == BLOWN
    with pytest.raises(ValueError, match="Drag a larger one"):
        tones(np.zeros((0, 4, 3), np.uint8))
