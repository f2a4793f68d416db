"""Where the chart's curves and the numbers of its drops lie."""

import numpy as np
import pytest

from ondine.core.forecast.prediction import Prediction
from ondine.demo.scenario import START, TIDAL_MILL
from ondine.ui.bench.chart_places import badge_of, lines_of
from ondine.ui.kit.scales import HeightScale, TimeScale
from tests.calibrated import TAUGHT

COURSE = Prediction.of(TIDAL_MILL, TAUGHT, START).course
HEIGHT = HeightScale(300.0, 20.0, TIDAL_MILL.nozzle_height_m)
WHOLE = TimeScale(0.0, 0.45, 54.0, 860.0)


def test_a_curve_lies_where_the_scales_put_its_points():
    fall, sheet, crater = COURSE.falls[0], COURSE.sheets[0], COURSE.craters[0]
    ((xs, ys),) = lines_of(fall, WHOLE, HEIGHT)
    assert xs == pytest.approx(WHOLE.x(fall.time_s)) and ys == pytest.approx(HEIGHT.y(fall.height_m))
    (_, upper), (_, lower) = lines_of(sheet, WHOLE, HEIGHT)
    assert np.all(upper <= lower) and np.any(upper < lower - 5)
    ((_, floor),) = lines_of(crater, WHOLE, HEIGHT)
    assert floor.max() > HEIGHT.base_y + 5 and floor.min() == pytest.approx(HEIGHT.base_y, abs=1e-6)


@pytest.mark.parametrize("from_s", [0.0, 0.15, 0.22, 0.24])
def test_a_drops_number_lies_on_what_is_in_view_of_its_curve(from_s):
    time = TimeScale(from_s, 0.45, 54.0, 860.0)
    for fall in COURSE.falls:
        badge = badge_of(fall, time, HEIGHT)
        assert badge is not None and time.left < badge.x() < time.right
        ((xs, ys),) = lines_of(fall, time, HEIGHT)
        assert np.hypot(xs - badge.x(), ys - badge.y()).min() < 1e-9


def test_out_of_view_it_has_none():
    assert badge_of(COURSE.falls[0], TimeScale(0.4, 0.6, 54.0, 860.0), HEIGHT) is None
