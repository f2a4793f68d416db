"""Depth of field against diffraction for lenses whose pupils differ: the effective f-number of prysm, and identities."""

import math
from dataclasses import replace

import pytest
from scipy.special import jn_zeros

from ondine.core.light.depth import (
    GREEN_M,
    best_f_number,
    camera_depth_m,
    circle_of_confusion_m,
    defocus_disc_m,
    depth_of_field_m,
    diffraction_disc_m,
)
from ondine.core.setup import Camera

CASES = [(16.0, 0.25, 1.0), (16.0, 0.25, 0.6), (11.0, 1.0, 1.7)]


@pytest.mark.parametrize(("n", "m", "ratio"), CASES)
def test_a_small_exit_pupil_makes_the_lens_slower(n, m, ratio):
    # N(1 + m/P), the working f-number (thin lens with pupil ratio P): a ratio below one makes it slower.
    effective = n * (1 + m / ratio)
    assert diffraction_disc_m(n, m, ratio) == pytest.approx(2.44 * GREEN_M * effective)
    assert depth_of_field_m(n, 30e-6, m, ratio) == pytest.approx(2 * effective * 30e-6 / m**2)
    assert defocus_disc_m(depth_of_field_m(n, 30e-6, m, ratio) / 2, n, m, ratio) == pytest.approx(30e-6)


def test_the_airy_disc_ends_at_the_first_zero_of_the_bessel_function():
    # Outside: first zero of J1 by scipy, 2·3.8317/π = 2.4393.
    assert diffraction_disc_m(10.0, 0.0) / (GREEN_M * 10.0) == pytest.approx(2 * jn_zeros(1, 1)[0] / math.pi, rel=1e-3)


@pytest.mark.parametrize(("n", "m", "ratio"), CASES)
def test_at_the_best_aperture_both_discs_are_alike(n, m, ratio):
    best = best_f_number(12e-3, m, ratio)
    assert defocus_disc_m(12e-3, best, m, ratio) == pytest.approx(diffraction_disc_m(best, m, ratio))
    assert best_f_number(12e-3, 0.25) == pytest.approx(19, abs=0.6)


def test_the_camera_is_asked_for_its_own_pupil_and_print():
    camera = Camera(f_number=16.0, magnification=0.25, pupil_ratio=0.5)
    circle = circle_of_confusion_m(camera)
    assert circle == pytest.approx(0.8 * math.radians(1 / 60) * 23.5e-3 / 0.6)
    assert camera_depth_m(camera) == pytest.approx(2 * 16 * circle * 1.5 / 0.0625)
    assert circle_of_confusion_m(replace(camera, print_width_m=9.0)) == pytest.approx(2 * 23.5e-3 / 6000)
