"""From radiance to codes."""

from dataclasses import replace

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


def test_more_light_and_less_light():
    camera, flat = Camera(magnification=0.4), np.full((4, 4, 3), 0.05, dtype=np.float32)
    levels = [expose(flat, replace(camera, iso=iso), 0.0, 1).mean() for iso in (50, 100, 200)]
    assert levels == sorted(levels) and levels[2] < 250
    assert expose(flat, replace(camera, f_number=22.0), 0.0, 1).mean() < levels[2]
    # A room that is lit leaves its own grey, however dark the flash.
    dark = np.zeros((4, 4, 3), dtype=np.float32)
    assert expose(dark, camera, 200.0, 1).mean() > 20 > expose(dark, camera, 0.2, 1).mean()
