import numpy as np
import pytest

from ondine.core.log.camera_clock import DAY_S, Clock


def test_a_clock_shows_its_offset_and_what_it_has_gained_since():
    clock = Clock(offset_s=3600.0, drift_s_per_day=2.0, at_s=1000.0)
    times = np.array([1000.0, 1000.0 + DAY_S, 1000.0 - DAY_S / 2])
    assert clock.shows_s(times) - times == pytest.approx([3600.0, 3602.0, 3599.0])


@pytest.mark.parametrize(
    ("drift", "sd", "known"), [(1.0, 0.3, True), (-1.0, 0.3, True), (0.5, 0.3, False), (0.0, 0.0, False)]
)
def test_a_drift_within_its_own_error_is_not_known(drift, sd, known):
    assert Clock(0.0, drift, drift_sd_s_per_day=sd).drift_is_known == known
