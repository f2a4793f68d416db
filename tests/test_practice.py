"""The facts of the trade against forecast and simulated world: common practice, no published source."""

import numpy as np
import pytest

from ondine.core.forecast.train import On
from ondine.core.physics.meeting import sheet_height_m
from tests.practice_rows import ROWS, Row, Table, foreseen, hidden


def overlaps(row: Row, values: np.ndarray, least: float = 0.05) -> bool:
    """Whether the middle nine tenths of some values reach into what practice tells."""
    low, high = np.nanquantile(values, [least, 1 - least])
    return low <= row.high and high >= row.low


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row.says)
def test_practice_lies_in_the_band_of_the_forecast(row):
    assert overlaps(row, row.forecast())


@pytest.mark.parametrize("row", ROWS, ids=lambda row: row.says)
def test_hidden_rigs_do_what_rigs_of_practice_do(row):
    assert overlaps(row, row.world(), 0.02)


@pytest.mark.parametrize(("height_m", "low", "high"), [(0.4, 320, 350), (0.45, 320, 350), (0.5, 320, 350)])
def test_the_flash_of_high_rigs_is_well_inside_the_band(height_m, low, high):
    # Start of opening to start of opening 75 ms, the least of practice; most rigs are within 50 ms of it.
    (row,) = [row for row in ROWS if row.says == f"flash from {height_m * 100:.0f} cm"]
    values = row.forecast()
    assert np.nanquantile(values, 0.5) == pytest.approx((low + high) / 2, abs=45)


@pytest.mark.parametrize("height_m", [0.15, 0.25, 0.35, 0.45])
@pytest.mark.parametrize("interval_ms", [75, 95, 115])
def test_collisions_happen_at_the_intervals_of_practice(height_m, interval_ms):
    table = Table(height_m, 20.0, interval_ms - 20.0)
    met = np.isin(foreseen(table).meetings.on[1], (On.JET, On.BEAD)).mean()
    assert met > 0.55
    assert np.mean([bool(what.umbrellas) and not what.merged for what in hidden(table)]) > 0.6


def test_two_kinds_of_collision_are_both_possible():
    # Both openings 40 ms from 45 cm: a pause of 35 ms did not merge and made a high splash, one of 80 ms a short umbrella.
    short, long = foreseen(Table(0.45, 40.0, 35.0)), foreseen(Table(0.45, 40.0, 80.0))
    assert 0.1 < short.falls.merged[1].mean() < 0.35 and long.falls.merged[1].mean() < 0.05
    low, high = (what.meetings.height_m[1] for what in (long, short))
    both = np.isfinite(low) & np.isfinite(high)
    assert np.mean(high[both] > low[both]) > 0.08


@pytest.mark.parametrize("gap_ms", [35.0, 80.0])
def test_after_a_collision_the_column_still_stands(gap_ms):
    # 25 ms after a good collision: the sheet is gone, the column is sinking back.
    what = foreseen(Table(0.45, 40.0 if gap_ms == 35 else 20.0, gap_ms))
    meets, rigs = what.meetings, what.rigs
    met, life = np.isfinite(meets.time_s[1]), meets.sheet_life_s[1]
    ends = sheet_height_m(life, meets.height_m[1], meets.sheet_m_s[1], meets.brake_m[1])
    later = 0.025 + rigs.sheet_peak_share * life
    left = np.where(later < life, ends, ends - rigs.column_sinks_m_s * (later - life))
    stands = (left > 1e-3) & (later < life + rigs.column_stands_s)
    assert stands[met].mean() > (0.45 if gap_ms == 35 else 0.6)


def test_a_pause_of_ten_milliseconds_leaves_one_drop():
    assert foreseen(Table(0.45, 20.0, 5.0)).falls.merged[1].mean() > 0.9
    assert np.mean([what.merged for what in hidden(Table(0.45, 20.0, 5.0))]) > 0.9
