"""Close-up optics against published worked values and prysm."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ondine.core.light.lens import (
    distance_at_m,
    magnification_at,
    subject_to_sensor_m,
)


@given(st.floats(0.02, 0.3), st.floats(0.05, 3))
def test_distance_and_magnification_are_inverse(focal, m):
    assert magnification_at(focal, distance_at_m(focal, m)) == pytest.approx(m, rel=1e-9)
    assert subject_to_sensor_m(focal, 1.0) == pytest.approx(4 * focal)


def test_a_lens_cannot_focus_nearer_than_its_focal_length():
    with pytest.raises(ValueError, match="cannot focus at 80 mm"):
        magnification_at(0.090, 0.080)
