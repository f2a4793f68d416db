import pytest

from ondine.core.light.blur import blur_px


@pytest.mark.parametrize(("per_second", "pixels"), [(1_000, 181), (4_000, 45), (11_000, 16), (41_600, 4.4)])
def test_blur_worked_values(per_second, pixels):
    # Worked by hand: 2.9 m/s at 1:4 on pixels of 4 µm.
    assert blur_px(2.9, 1 / per_second, 4e-6 / 0.25) == pytest.approx(pixels, rel=0.03)
