"""From radiance to codes."""

import numpy as np
import pytest

from ondine.core.setup import Camera
from ondine.picture.exposure import expose

CAMERA = Camera(magnification=0.4, f_number=16.0, iso=200)


def grey(radiance: float) -> float:
    """Mean code of an even picture, without a room's light."""
    return float(expose(np.full((60, 60, 3), radiance, dtype=np.float32), CAMERA, 0.0, 1).mean())


def srgb(linear: float) -> float:
    """Code of a linear value, IEC 61966-2-1."""
    return 255 * (12.92 * linear if linear <= 0.0031308 else 1.055 * linear ** (1 / 2.4) - 0.055)


@pytest.mark.parametrize("linear", [0.02, 0.05, 0.18, 0.4, 0.65])
def test_below_the_shoulder_codes_follow_the_standard_curve(linear):
    # The bellows' factor 1.4 is reached at a magnification of 0.4: there radiance 1 is 0.8 of white.
    assert grey(linear / 0.8) == pytest.approx(srgb(linear), abs=0.7)


def test_highlights_bend_to_white_and_stay_there():
    codes = [grey(r) for r in (0.9, 1.2, 1.6, 2.5, 8.0, 50.0)]
    assert codes == sorted(codes)
    assert codes[0] < 240 and codes[-1] == 255


def test_darkness_is_black_but_for_noise():
    dark = expose(np.zeros((60, 60, 3), dtype=np.float32), CAMERA, 0.0, 1)
    assert dark.mean() < 1 and dark.max() < 4
