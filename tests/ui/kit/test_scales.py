import numpy as np
import pytest

from ondine.ui.kit.scales import HeightScale, TimeScale


def test_scales_go_there_and_back():
    time = TimeScale(0.1, 0.4, 50, 950)
    assert time.time_s(time.x(0.25)) == pytest.approx(0.25)
    assert time.step_s(60) in (0.02, 0.05)
    height = HeightScale(300, 20, 0.365)
    assert height.y(0.0) == 300 and height.y(0.365) == pytest.approx(20)
    assert height.y(-0.01) - 300 == pytest.approx(300 - height.y(0.01))
    places = height.y(np.linspace(0, 0.365, 50))
    assert np.all(np.diff(places) < 0)
