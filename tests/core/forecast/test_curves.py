"""What the chart draws between its points is nowhere far from the law it follows."""

from dataclasses import replace

import numpy as np
import pytest

from ondine.core.belief.priors import Prior
from ondine.core.forecast.curves import crater_curves, fall_curves, jet_curves, sheet_curves
from ondine.core.forecast.instant import at_instant, drop_heights_m
from ondine.core.forecast.whole import forecast
from ondine.core.physics import flight, splash
from ondine.core.timing.sequence import Pulse, Sequence
from ondine.demo.scenario import ONE, PAIR, TIDAL_MILL
from tests.calibrated import TAUGHT

PX_PER_S = 820 / 0.42
"""The chart of the demo at 1280 pixels."""

PAIR_FALLS = forecast(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(PAIR, 356_000))
ALONE = forecast(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(ONE, 300_000))


def px(height_m):
    """Height on the chart: stretched near the water; 470 pixels hold the whole fall."""
    return 470 * np.arcsinh(np.asarray(height_m) / 0.04) / np.arcsinh(TIDAL_MILL.valves[0].nozzle_height_m / 0.04)


def off_px(times_s, heights_m, law) -> float:
    """How far in pixels, square to it, a line through points runs beside the law at most."""
    dense = np.linspace(times_s[0], times_s[-1], 2000)
    drawn, true = np.interp(dense, times_s, px(heights_m)), px(law(dense))
    slope = np.gradient(true, dense * PX_PER_S)
    return float(np.max(np.abs(drawn - true) / np.hypot(1, slope)))


@pytest.mark.parametrize("drop", [0, 1])
def test_a_fall_is_drawn_where_the_drop_is(drop):
    curve = fall_curves(PAIR_FALLS)[drop]
    falls = PAIR_FALLS.falls

    def law(time_s):
        elapsed = time_s - falls.release_s[drop, 0]
        return falls.height_m[drop, 0] - flight.fall_distance_m(
            elapsed, falls.start_m_s[drop, 0], falls.terminal_m_s[drop, 0]
        )

    assert off_px(curve.time_s, curve.height_m, law) < 0.55
    # And the law is what the state at an instant says.
    middle = float(curve.time_s[8])
    assert drop_heights_m(PAIR_FALLS, middle)[0][drop, 0] == pytest.approx(
        curve.height_m[8] + falls.diameter_m[drop, 0] / 2, rel=1e-9
    )


def test_the_band_of_a_fall_is_the_spread_of_all_rigs():
    for curve in fall_curves(PAIR_FALLS):
        falls = PAIR_FALLS.falls
        for at in (0, 8, 15):
            way = falls.height_m[curve.drop, 0] - curve.height_m[at]
            times = falls.release_s[curve.drop] + flight.fall_time_s(
                way, falls.start_m_s[curve.drop], falls.terminal_m_s[curve.drop]
            )
            # Every second rig is asked, and between six heights it is a line.
            assert curve.sd_s[at] == pytest.approx(np.std(times), rel=0.12, abs=1e-4)


def test_the_jet_is_a_throw_and_its_band_holds_two_thirds_of_the_rigs():
    (curve,) = jet_curves(ALONE)
    first = ALONE.splashes

    def law(time_s, rig=0):
        return splash.jet_height_m(time_s - first.jet_s[0, rig], first.jet_m_s[0, rig], first.jet_slows_m_s2[0, rig])

    assert off_px(curve.time_s, curve.height_m, law) < 0.55
    for at in (4, 8, 12):
        heights = law(curve.time_s[at], slice(None))
        heights = np.where(np.isfinite(heights), heights, 0.0)
        inside = np.mean((heights >= curve.low_m[at]) & (heights <= curve.high_m[at]))
        assert inside == pytest.approx(0.68, abs=0.09)


def test_the_crater_opens_fast_and_is_still_drawn_well():
    (curve,) = crater_curves(ALONE)
    first, start = ALONE.splashes, ALONE.falls.touchdown_s[0, 0]

    def law(time_s):
        return splash.crater_depth_m(time_s - start, first.crater_m[0, 0], first.jet_delay_s[0, 0])

    assert off_px(curve.time_s, curve.depth_m, law) < 0.55
    assert curve.time_s[0] == pytest.approx(start) and curve.time_s[-1] == pytest.approx(first.jet_s[0, 0])


def test_a_sheet_is_full_around_its_widest():
    (curve,) = sheet_curves(PAIR_FALLS)
    widest = curve.time_s[int(np.argmax(curve.radius_m))]
    assert curve.full_from_s < widest < curve.full_until_s
    life, met = float(PAIR_FALLS.meetings.sheet_life_s[1, 0]), float(PAIR_FALLS.meetings.time_s[1, 0])
    third = replace(TAUGHT, sheet_peak_share=Prior(1 / 3, 0.0))
    (early,) = sheet_curves(forecast(TIDAL_MILL, third, Sequence.with_one_flash(PAIR, 356_000)))
    # Villermaux & Bossa's T·(1 - T)² is within a tenth of its greatest value from T = 0.218 to 0.464 (solved by hand).
    assert (early.full_from_s - met) / life == pytest.approx(0.218, abs=1e-3)
    assert (early.full_until_s - met) / life == pytest.approx(0.464, abs=1e-3)


def test_four_drops_fall_as_each_alone():
    pulses = (Pulse(0, 22_000), Pulse(95_000, 22_000), Pulse(133_000, 18_000), Pulse(190_000, 20_000))
    together = fall_curves(forecast(TIDAL_MILL, TAUGHT, Sequence.with_one_flash(pulses, 356_000)))
    for curve, pulse in zip(together, pulses, strict=True):
        (alone,) = fall_curves(forecast(TIDAL_MILL, TAUGHT, Sequence.with_one_flash((pulse,), 356_000)))
        reached = curve.height_m >= curve.stops_at_m - 1e-9
        assert np.all(reached)
        on_alone = np.interp(-curve.height_m, -alone.height_m, alone.time_s)
        assert curve.time_s == pytest.approx(on_alone, abs=6e-4)


def test_curves_end_where_the_events_are(setup, sequence):
    what = forecast(setup, TAUGHT, sequence)
    met = float(what.meetings.time_s[1, 0])
    assert fall_curves(what)[1].time_s[-1] == pytest.approx(met, abs=2e-4)
    assert jet_curves(what)[0].ends_s == pytest.approx(met)
    sheet = sheet_curves(what)[0]
    assert sheet.full_from_s < met + float(what.meetings.sheet_life_s[1, 0]) / 2 < sheet.full_until_s
    assert crater_curves(what)[0].depth_m.max() == pytest.approx(float(what.splashes.crater_m[0, 0]), rel=0.02)


def test_a_sheet_is_drawn_where_the_mean_rig_throws_it():
    (curve,) = sheet_curves(PAIR_FALLS)
    for at in (1, 7, 14):
        now = at_instant(PAIR_FALLS, round(float(curve.time_s[at]) * 1e6))
        assert curve.height_m[at] == pytest.approx(float(now.sheet_height_m[1, 0]), abs=1e-5)
        assert curve.radius_m[at] == pytest.approx(float(now.sheet_radius_m[1, 0]), abs=1e-4)
